import { useQuery } from '@tanstack/react-query';
import { memo, useEffect, useMemo, useState } from 'react';
import { groupLevelsQuery } from '../../api/queries';
import type { Day } from '../../api/day';
import type { Angle, GroupView } from '../../api/types';
import { Strip } from '../../draw/Strip';
import { useDraw } from '../../draw/useDraw';
import { angleOf, rankOf, seenOf } from '../../model/angles';
import { cutNear, roomOf, stretchAt } from '../../model/line';
import { timecode } from '../../model/format';
import type { Window } from '../../model/mirror';
import { stemOf } from '../../model/names';
import { BLACK } from '../../model/onAir';
import { endOf, speedSaid } from '../../model/over';
import { tileOf } from '../../model/tile';
import { hue } from '../../parts/Stamp';
import { useWheel, type View } from '../../parts/useView';
import { useWall } from '../../play/useWall';
import type { Wall } from '../../play/wall';
import { markerHue } from './marker';
import type { Span } from './useSpan';

type Props = {
  day: Day;
  view: GroupView;
  wall: Wall;
  /** The frames that are shown. */
  zoom: View;
  chosen: number;
  /** The angle under the pointer: when it runs is shown alone. */
  pointed: number | null;
  /** What lies between in and out point. */
  span: Span | null;
  onSeek: (frame: number) => void;
  /** A cut was dragged by so many frames. */
  onRoll: (cut: number, by: number) => void;
};

/** A strip of the line, the whole or a part of it: markers, stretches, who runs, the sound, the playhead. */
export function LineStrip({ day, view, wall, zoom, chosen, pointed, span, onSeek, onRoll }: Props) {
  const { group } = view;
  const frame = useWall(wall, (state) => state.frame);
  const [box, setBox] = useState<HTMLDivElement | null>(null);
  useWheel(box, zoom);
  const { from, to } = zoom.view;
  const { switches } = view.line;
  const angles = useMemo(() => seenOf(group), [group]);
  // The cut that is dragged, and where it would be.
  const [drag, setDrag] = useState<{ cut: number; to: number } | null>(null);
  const placeOf = (event: React.PointerEvent<HTMLDivElement>) => {
    const own = event.currentTarget.getBoundingClientRect();
    const share = Math.max(0, Math.min(1, (event.clientX - own.left) / own.width));
    return {
      at: from + share * (to - from),
      near: (GRIP * (to - from)) / own.width,
      y: event.clientY - own.top,
    };
  };
  const seekTo = (event: React.PointerEvent<HTMLDivElement>) => onSeek(Math.floor(placeOf(event).at));
  const taken = (event: React.PointerEvent<HTMLDivElement>) => {
    const { at, near, y } = placeOf(event);
    const cut = cutNear(switches, at, near);
    if (cut === null || y < TOP || y > TOP + HEIGHT) return null;
    return { cut, to: switches[cut]?.at ?? 0 };
  };
  const moved = (event: React.PointerEvent<HTMLDivElement>, { cut }: { cut: number }) => {
    const [least, most] = roomOf(switches, cut, group.frames);
    const there = Math.max(least, Math.min(most, Math.round(placeOf(event).at)));
    setDrag({ cut, to: there });
    onSeek(there);
  };
  const ended = () => {
    if (!drag) return;
    setDrag(null);
    onRoll(drag.cut, drag.to - (switches[drag.cut]?.at ?? drag.to));
  };
  const at = (100 * (frame + 0.5 - from)) / (to - from);
  return (
    <div
      ref={setBox}
      data-bars
      className="relative mt-2.5 h-[70px] touch-none overflow-hidden select-none"
      role="slider"
      aria-label="Place in the group"
      aria-valuemin={0}
      aria-valuemax={group.frames - 1}
      aria-valuenow={frame}
      aria-valuetext={timecode({ ...group.start, frames: group.start.frames + frame })}
      tabIndex={0}
      onPointerDown={(event) => {
        // A pointer made by a program cannot be captured, and need not be.
        if (event.isTrusted) event.currentTarget.setPointerCapture(event.pointerId);
        const cut = taken(event);
        if (cut) setDrag(cut);
        else seekTo(event);
      }}
      onPointerMove={(event) => {
        if (!event.buttons) event.currentTarget.style.cursor = taken(event) ? 'ew-resize' : '';
        else if (drag) moved(event, drag);
        else seekTo(event);
      }}
      onPointerUp={ended}
      onPointerCancel={() => setDrag(null)}
    >
      <Stretches day={day} view={view} chosen={chosen} window={zoom.view} />
      <Running
        day={day}
        angles={pointed === null ? angles : angles.filter(({ id }) => id === pointed)}
        window={zoom.view}
      />
      {span && (
        <div
          data-testid="span"
          className="absolute inset-y-0 border-x border-[#dce7e2] bg-[#dce7e2]/15"
          style={{
            left: `${(100 * (span.from - from)) / (to - from)}%`,
            width: `${(100 * (span.to - span.from)) / (to - from)}%`,
          }}
        />
      )}
      {drag && (
        <div
          className="absolute top-[8px] h-[22px] w-[3px] -translate-x-1/2 bg-[#e0a54a]"
          style={{ left: `${(100 * (drag.to - from)) / (to - from)}%` }}
        />
      )}
      {at >= 0 && at <= 100 && (
        <div className="absolute top-0 h-[70px] w-px bg-[#dce7e2]" style={{ left: `${at}%` }} />
      )}
    </div>
  );
}

/** The stretches' place in the strip, and how near to a cut takes hold of it; pixels. */
const TOP = 8;
const HEIGHT = 22;
const GRIP = 5;

/** A view that rests for so long has its sound drawn finely; until then what is there is stretched, milliseconds. */
const REST_MS = 120;
const LEVELS = 1600;

type StretchesProps = Pick<Props, 'day' | 'view' | 'chosen'> & { window: Window };

/** What does not change while the playhead runs. */
const Stretches = memo(function Stretches({ day, view, chosen, window: { from, to } }: StretchesProps) {
  const { group, line } = view;
  const { from: begin, to: end } = tileOf({ from, to }, group.frames);
  const [tile, setTile] = useState<Window>({ from: begin, to: end });
  useEffect(() => {
    const rest = window.setTimeout(() => setTile({ from: begin, to: end }), REST_MS);
    return () => window.clearTimeout(rest);
  }, [begin, end]);
  const levels = useQuery(groupLevelsQuery(view, LEVELS, tile));
  const [drawn, setDrawn] = useState<{ tile: Window; levels: number[] }>({ tile, levels: [] });
  if (levels.data && drawn.levels !== levels.data) setDrawn({ tile, levels: levels.data });
  const share = (frames: number) => `${(100 * frames) / (to - from)}%`;
  const inView = (first: number, last: number) => last > from && first < to;
  const first = stretchAt(line.switches, from);
  const behind = stretchAt(line.switches, to);
  const shown = Array.from({ length: behind - first + 1 }, (_, i) => first + i);
  return (
    <>
      {shown.length > MANY && <Many day={day} view={view} chosen={chosen} window={{ from, to }} />}
      {(shown.length > MANY ? [] : shown).map((i) => {
        const one = line.switches[i];
        if (!one) return null;
        const last = line.switches[i + 1]?.at ?? group.frames;
        const angle = angleOf(group, one.angle);
        const rank = angle ? rankOf(group, angle) : 0;
        const length = one.dissolve ?? 0;
        return (
          <div
            key={one.at}
            data-stretch={i}
            className={`absolute top-[8px] h-[22px] overflow-hidden border-l-2 border-black px-1.5 leading-[22px] text-[#dce7e2] ${i === chosen ? 'outline-2 -outline-offset-2 outline-[#dce7e2]' : ''}`}
            style={{
              left: share(one.at - from),
              width: share(last - one.at),
              background:
                one.angle === BLACK
                  ? '#000'
                  : `color-mix(in srgb, ${hue(day.devices, angle?.device ?? null)} 55%, #1a2220)`,
            }}
          >
            {length > 0 && (
              <span
                aria-hidden
                className="absolute inset-y-0 left-0 bg-black/60 [clip-path:polygon(0_0,100%_0,0_100%)]"
                style={{ width: `${(100 * length) / (last - one.at)}%` }}
              />
            )}
            <span className="relative">
              {day.devices.find((device) => device.id === angle?.device)?.letter}
              {rank > 0 && rank + 1}
            </span>
          </div>
        );
      })}
      {(line.layers ?? []).map((layer, i) =>
        inView(layer.at, endOf(layer)) ? (
          <span
            key={layer.at}
            data-over={i}
            title={`${stemOf(day, layer.clip)}, ${speedSaid(layer.speed)}`}
            className="absolute top-[5px] h-[12px] overflow-hidden border border-black bg-[#dce7e2] px-1 text-[10px] leading-[10px] whitespace-nowrap text-black"
            style={{ left: share(layer.at - from), width: share(layer.frames) }}
          >
            {stemOf(day, layer.clip)}
          </span>
        ) : null,
      )}
      <Heard day={day} view={view} window={{ from, to }} />
      <div
        className="absolute top-[40px] h-[30px]"
        style={{ left: share(drawn.tile.from - from), width: share(drawn.tile.to - drawn.tile.from) }}
      >
        <Strip levels={drawn.levels} colour="#9db0a9" className="h-full w-full" />
      </div>
      {(group.seams ?? []).map(({ at, frames }) =>
        inView(at, at) ? (
          <span
            key={at}
            title={`${frames} frames are taken out here`}
            className="absolute inset-y-0 border-l border-dashed border-[#dce7e2]/70"
            style={{ left: share(at - from) }}
          />
        ) : null,
      )}
      {(line.markers ?? []).map(({ at, colour, note }) =>
        inView(at, at + 1) ? (
          <span
            key={at}
            data-marker={at}
            title={note}
            className="absolute top-0 h-[7px] w-[7px] -translate-x-1/2 rounded-full"
            style={{ left: share(at + 0.5 - from), background: markerHue(colour) }}
          />
        ) : null,
      )}
    </>
  );
});

/** More stretches than this are drawn, not laid out: they have no room for a letter. */
const MANY = 100;

/** A colour that a pen knows: what the page calls it by means nothing there. */
const inked = (own: string) =>
  getComputedStyle(document.documentElement).getPropertyValue(own.slice('var('.length, -1));

/** Very many stretches: each in its colour, without a word. */
function Many({ day, view: { group, line }, chosen, window: { from, to } }: StretchesProps) {
  const canvas = useDraw(
    ({ pen, width, height }) => {
      const place = (frame: number) => ((frame - from) / (to - from)) * width;
      const colours = new Map(
        group.angles.map((angle) => [
          angle.id,
          `color-mix(in srgb, ${inked(hue(day.devices, angle.device))} 55%, #1a2220)`,
        ]),
      );
      line.switches.forEach((one, i) => {
        const end = line.switches[i + 1]?.at ?? group.frames;
        if (end <= from || one.at >= to) return;
        const [left, right] = [place(one.at), place(end)];
        pen.fillStyle = colours.get(one.angle) ?? '#000';
        pen.fillRect(left, 0, Math.max(0.5, right - left - 0.5), height);
        if (i !== chosen) return;
        pen.fillStyle = '#dce7e2';
        pen.fillRect(left, 0, Math.max(2, right - left), 2);
        pen.fillRect(left, height - 2, Math.max(2, right - left), 2);
      });
    },
    [day.devices, group, line, chosen, from, to],
  );
  return <canvas ref={canvas} aria-hidden className="absolute top-[8px] h-[22px] w-full" />;
}

/** Whose own sound is heard where: over the outline, in the device's colour. */
function Heard({ day, view: { group, line }, window: { from, to } }: Omit<StretchesProps, 'chosen'>) {
  const switches = line.sound?.switches ?? [];
  const share = (frames: number) => `${(100 * frames) / (to - from)}%`;
  return switches.map((one, i) => {
    const end = switches[i + 1]?.at ?? group.frames;
    const device = angleOf(group, one.angle)?.device ?? null;
    if (one.angle === BLACK || end <= from || one.at >= to) return null;
    return (
      <span
        key={one.at}
        data-heard={one.at}
        className="absolute top-[40px] h-[30px] border-l-2 px-1 text-[11px] text-[#dce7e2]"
        style={{
          left: share(one.at - from),
          width: share(end - one.at),
          borderColor: hue(day.devices, device),
          background: `color-mix(in srgb, ${hue(day.devices, device)} 35%, transparent)`,
        }}
      >
        {day.devices.find(({ id }) => id === device)?.letter}
      </span>
    );
  });
}

type RunningProps = { day: Day; angles: readonly Angle[]; window: Window };

/** Which angles run when: a hair for each, in its device's colour. */
const Running = memo(function Running({ day, angles, window: { from, to } }: RunningProps) {
  const hair = 8 / Math.max(1, angles.length);
  return (
    <div aria-hidden data-running={angles.length} className="absolute top-[31px] h-2 w-full">
      {angles.flatMap((angle, i) =>
        angle.parts
          .filter((part) => part.to_frame > from && part.from_frame < to)
          .map((part) => (
            <span
              key={`${angle.id} ${part.from_frame}`}
              className="absolute"
              style={{
                top: i * hair,
                height: Math.max(0.7, hair - 0.5),
                left: `${(100 * (part.from_frame - from)) / (to - from)}%`,
                width: `${(100 * (part.to_frame - part.from_frame)) / (to - from)}%`,
                background: hue(day.devices, angle.device),
              }}
            />
          )),
      )}
    </div>
  );
});

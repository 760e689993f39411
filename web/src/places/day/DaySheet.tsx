import { useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { Link } from 'wouter';
import { useCommands } from '../../api/commands';
import { arrivingQuery, clipLevelsQuery } from '../../api/queries';
import { useJobs, type Day } from '../../api/day';
import type { ArrivingClip, DeviceView, PassPlan } from '../../api/types';
import { Strip } from '../../draw/Strip';
import { Empty } from '../../frame/Empty';
import { Head } from '../../frame/Head';
import { idle } from '../../keys/table';
import { useKeys } from '../../keys/useKeys';
import { end, runs } from '../../model/axis';
import { apart, clock, length, pause, signed, speed } from '../../model/format';
import { lies, margin } from '../../model/island';
import { stem, stemOf } from '../../model/names';
import { bands, type Band, type Slip, taking, without } from '../../model/sheet';
import { Button } from '../../parts/Button';
import { Choice } from '../../parts/Choice';
import { hue } from '../../parts/Stamp';
import { useTurned } from '../../parts/Turn';
import { VerdictMark } from '../../parts/VerdictMark';
import { columns } from './columns';
import { EvidencePanel } from './EvidencePanel';
import { dayKeys } from './keys';
import { Columns, Tray } from './Tray';
import { useChanges } from './useChanges';

/** The day as a log sheet: a column a device, time runs down. */
export function DaySheet({ day }: { day: Day }) {
  const run = useCommands();
  const said = useTurned();
  const [chosen, setChosen] = useState<number | null>(null);
  const [reference, setReference] = useState<number | ''>('');
  const sheet = useMemo(() => bands(day), [day]);
  const lost = useMemo(() => without(day), [day]);
  const shown = useMemo(() => {
    const here = sheet.flatMap((band) => band.slips.map((slip) => slip.clip.device));
    const ids = new Set([...here, ...lost.map((clip) => clip.device)]);
    return day.devices.filter((device) => ids.has(device.id));
  }, [day.devices, sheet, lost]);
  const syncing = useJobs().some((job) => job.kind === 'pass' && job.open > 0);
  const [how, setHow] = useState<Pick<PassPlan, 'mode' | 'effort'>>({ mode: 'day', effort: 'normal' });
  const { data: arriving = [] } = useQuery(arrivingQuery);
  const since = useChanges(day);
  const moved = useMemo(
    () => new Map((since.changes ?? []).map(({ clip, moved_s }) => [clip, moved_s ?? 0])),
    [since.changes],
  );
  const start = (plan: Partial<PassPlan>, device: number | null) =>
    void run.pass({ reference: device, plan: { ...how, clips: null, near: null, ...plan } });
  const sync = () => start({}, reference === '' ? null : reference);
  const doubts = taking(day).filter(
    ({ placement }) => placement.verdict === 'check' || placement.verdict === 'unplaced',
  );
  const order = useMemo(() => {
    const placed = sheet.flatMap((band) => band.slips.map((slip) => slip.clip.id));
    return [...new Set([...placed, ...lost.map((clip) => clip.id)])];
  }, [sheet, lost]);
  const step = (list: number[], by: number) => {
    const at = chosen === null ? -1 : list.indexOf(chosen);
    const next = list[at < 0 ? 0 : (at + by + list.length) % list.length];
    if (next !== undefined) setChosen(next);
  };
  const keys = dayKeys({
    sync: () => syncing || sync(),
    doubt: () =>
      step(
        doubts.map(({ clip }) => clip),
        1,
      ),
    step: (by) => step(order, by),
    none: () => setChosen(null),
    undo: () => void run.turnShown('undo').then((turned) => said('undo', turned)),
    redo: () => void run.turnShown('redo').then((turned) => said('redo', turned)),
  });
  useKeys(keys);
  if (day.clips.length === 0) {
    return (
      <Empty day={day} title="Day sheet" keys={dayKeys(idle())}>
        No clips yet. Bring the day in at <Link href="/intake">Intake</Link>.
      </Empty>
    );
  }
  return (
    <>
      <Head day={day} title="Day sheet" keys={keys}>
        {day.passes.length > 1 && (
          <Choice label="Show pass" value={day.pass?.id} onChange={(pass) => void run.showPass(Number(pass))}>
            {day.passes.map((pass) => (
              <option key={pass.id} value={pass.id}>
                {pass.number} {pass.name}
              </option>
            ))}
          </Choice>
        )}
        <Choice
          label="Reference"
          value={reference}
          onChange={(device) => setReference(device ? Number(device) : '')}
        >
          <option value="">best sound</option>
          {day.devices.map((device) => (
            <option key={device.id} value={device.id}>
              {device.letter} {device.name}
            </option>
          ))}
        </Choice>
        <Choice
          label="Ran"
          value={how.mode}
          onChange={(mode) => setHow({ ...how, mode: mode as PassPlan['mode'] })}
        >
          <option value="day">one day</option>
          <option value="playback">to the track</option>
        </Choice>
        <Choice
          label="Effort"
          value={how.effort}
          onChange={(effort) => setHow({ ...how, effort: effort as PassPlan['effort'] })}
        >
          <option value="normal">normal</option>
          <option value="deep">deep</option>
        </Choice>
        <Button main disabled={syncing} onClick={sync}>
          {syncing ? 'Syncing…' : 'Sync the day'}
        </Button>
      </Head>
      <div className="flex min-h-0 flex-1">
        <section aria-label="Sheet" className="flex min-w-0 flex-1 flex-col">
          <Columns devices={shown} day={day} />
          <div
            className={`min-h-0 overflow-y-auto [scrollbar-gutter:stable] ${sheet.length === 0 ? 'shrink-0 pb-3' : 'flex-1'}`}
            data-testid="sheet"
          >
            {syncing && arriving.length > 0 && <Arriving day={day} arriving={arriving} />}
            {!day.pass && (
              <p className="px-4 pt-3 text-soft">
                Not synced yet:{' '}
                {sheet.length === 0
                  ? 'no clock says when these clips ran.'
                  : 'the clips stand where their own clocks say, and those that no clock places in their tray below.'}{' '}
                Press “Sync the day” to put them where they belong.
              </p>
            )}
            {sheet.map((band, i) => {
              const before = sheet[i - 1];
              return (
                <div key={`${band.component} ${band.from}`}>
                  {before && <Seam seconds={band.from - before.to} />}
                  <BandRow
                    day={day}
                    band={band}
                    devices={shown}
                    moved={moved}
                    chosen={chosen}
                    onChoose={setChosen}
                  />
                </div>
              );
            })}
          </div>
          <Tray
            day={day}
            clips={lost}
            devices={shown}
            alone={sheet.length === 0}
            chosen={chosen}
            onChoose={setChosen}
          />
          <Foot day={day} />
        </section>
        <EvidencePanel
          day={day}
          clip={chosen}
          since={since}
          busy={syncing}
          onLook={(plan) => start(plan, null)}
          onChoose={setChosen}
        />
      </div>
    </>
  );
}

/** First places a running pass found, newest first: they may move yet. */
function Arriving({ day, arriving }: { day: Day; arriving: ArrivingClip[] }) {
  const sure = arriving.filter((clip) => clip.sure).length;
  return (
    <p className="num border-b border-line px-4 py-2 text-[12px]" data-testid="arriving" aria-live="polite">
      <b className="font-semibold">{arriving.length} found so far</b>
      <span className="text-soft">
        , {sure} beyond doubt:{' '}
        {arriving
          .slice(-6)
          .reverse()
          .map((clip) => `${stemOf(day, clip.clip)} at ${signed(clip.start_s, 1)} s`)
          .join(', ')}
      </span>
    </p>
  );
}

function Seam({ seconds }: { seconds: number }) {
  if (seconds < 1) return <div className="h-2" />;
  return (
    <div className="my-2.5 flex h-[21px] items-center justify-center border-y border-dashed border-soft text-[12px] text-soft">
      {pause(seconds)}, nothing ran
    </div>
  );
}

type BandProps = {
  day: Day;
  band: Band;
  devices: DeviceView[];
  /** Seconds by which clips moved since the pass that is compared. */
  moved: Map<number, number>;
  chosen: number | null;
  onChoose: (clip: number) => void;
};

function BandRow({ day, band, devices, moved, chosen, onChoose }: BandProps) {
  const scale = band.height / (band.to - band.from);
  return (
    <div className="grid bg-band pr-3 pl-2" style={{ ...columns(devices), height: band.height + 12 }}>
      <div className="min-w-0 py-1.5 pr-1">
        <div className="truncate font-semibold">{band.name}</div>
        {band.island?.by !== null && <div className="num text-[12px] text-soft">{clock(band.from)}</div>}
        {band.island && (
          <div className="num text-[12px] text-soft italic" title={lies(day, band.island)}>
            {margin(band.island)}
          </div>
        )}
      </div>
      {devices.map((device) => (
        <div key={device.id} className="relative border-l border-line">
          {band.slips
            .filter((slip) => slip.clip.device === device.id)
            .map((slip) => (
              <SlipCard
                key={`${slip.clip.id} ${slip.part}`}
                day={day}
                slip={slip}
                top={6 + (slip.from - band.from) * scale}
                height={(slip.to - slip.from) * scale}
                moved={moved.get(slip.clip.id) ?? 0}
                scale={scale}
                chosen={chosen === slip.clip.id}
                onChoose={() => onChoose(slip.clip.id)}
              />
            ))}
        </div>
      ))}
    </div>
  );
}

type SlipProps = {
  day: Day;
  slip: Slip;
  top: number;
  height: number;
  /** Seconds by which it moved since the pass that is compared. */
  moved: number;
  /** Pixels a second. */
  scale: number;
  chosen: boolean;
  onChoose: () => void;
};

function SlipCard({ day, slip, top, height, moved, scale, chosen, onChoose }: SlipProps) {
  const { clip, placed, part, parts } = slip;
  const levels = useQuery(clipLevelsQuery(clip, 120));
  const colour = hue(day.devices, clip.device);
  const own = useMemo(() => {
    const all = levels.data ?? [];
    const run = runs(placed?.placement.stretches ?? [])[part];
    const [first, last] = [run?.[0], run?.at(-1)];
    if (!first || !last || parts === 1) return all;
    const share = (s: number) => Math.round((s / clip.facts.duration_s) * all.length);
    return all.slice(share(first.clip_start_s), share(last.clip_end_s));
  }, [levels.data, placed, part, parts, clip.facts.duration_s]);
  const card = (
    <button
      type="button"
      onClick={onChoose}
      aria-pressed={chosen}
      className={`absolute right-1.5 left-1 flex overflow-hidden border bg-sheet text-left transition-[top] duration-150 ${chosen ? 'z-10 outline-2 outline-accent' : 'border-line'}`}
      style={{ top, height: Math.max(height - 2, 20), borderLeft: `2px solid ${colour}` }}
    >
      <Strip levels={own} colour={colour} down className="h-full w-5 shrink-0" />
      <span className="min-w-0 flex-1 py-0.5 pl-1 text-[12px] leading-[1.3]">
        <span className="flex items-center gap-1.5">
          {placed && <VerdictMark verdict={placed.placement.verdict} />}
          <span className="num truncate">{stem(clip)}</span>
        </span>
        {[...(moved ? [`moved ${apart(moved)}`] : []), ...lines(day, slip)]
          .slice(0, Math.max(0, Math.floor((height - 22) / 14)))
          .map((line) => (
            <span key={line} className="num block truncate text-[11px] text-soft">
              {line}
            </span>
          ))}
      </span>
    </button>
  );
  // Where it lay in the pass that is compared, as far as the band shows it.
  const was = top - moved * scale;
  if (!moved || Math.abs(was - top) < 3 || was < 0) return card;
  return (
    <>
      <span
        aria-hidden
        className="pointer-events-none absolute right-0.5 left-0 border border-dashed border-accent"
        style={{ top: was, height: Math.max(height - 2, 20) }}
      />
      {card}
    </>
  );
}

/** What is written on a slip, line by line, as far as it has room. */
function lines(day: Day, { clip, placed, part, parts, from, to }: Slip): string[] {
  const found = runs(placed?.placement.stretches ?? []);
  const [before, own] = [found[part - 1]?.at(-1), found[part]?.[0]];
  const last = found[part]?.at(-1);
  const text = [length(to - from) + (parts > 1 ? ` · ${part + 1} of ${parts}` : '')];
  if (own && day.pass?.reference === clip.device) text.push('reference');
  else if (own && last && last !== own) {
    text.push(`${signed(own.rate_ppm, 1)} to ${signed(last.rate_ppm, 1)} ppm`);
  } else if (own) text.push(speed(own.rate_ppm) ?? `${signed(own.rate_ppm, 1)} ppm`);
  if (before && own) text.push(`lost ${(own.start_s - end(before)).toFixed(3)} s`);
  if (clip.channels?.some((channel) => channel.audio_timecode)) text.push('audio tc');
  const slate = [clip.facts.scene, clip.facts.take].filter(Boolean).join(' / ');
  if (slate) text.push(slate);
  return text;
}

function Foot({ day }: { day: Day }) {
  const resting = day.placements.length - taking(day).length;
  if (!day.pass) return null;
  const { solid, check, by_hand, unplaced } = day.counts;
  return (
    <footer className="shrink-0 border-t border-line px-3 py-1.5 text-[12px] text-soft">
      {solid} solid · {check} check{by_hand > 0 && ` · ${by_hand} by hand`} · {unplaced} unplaced, in{' '}
      {day.pass.took_s.toFixed(1)} s{resting > 0 && ` · ${resting} take no part`}
    </footer>
  );
}

import { Fragment, useMemo } from 'react';
import { Link } from 'wouter';
import type { Day } from '../../api/day';
import type { Verdict } from '../../api/types';
import { scenes, type Kind } from '../../model/chosen';
import { SCALES } from '../../model/elastic';
import { taking } from '../../model/sheet';
import { Button } from '../../parts/Button';
import { VERDICT } from '../../parts/VerdictMark';
import type { SheetView } from './useSheet';

type Props = {
  day: Day;
  /** The sheet; null where takes stand under their track, which are never closer or folded. */
  view: SheetView | null;
  left: number;
  onKind: (kind: Kind) => void;
  onAll: () => void;
  /** Whether stretches in which only some devices ran are folded. */
  folded: boolean;
  onFold: () => void;
};

const VERDICTS: readonly Verdict[] = ['solid', 'check', 'by_hand', 'unplaced'];

/** What the pass found, what can be chosen of it, and how close the sheet is looked at. */
export function Foot({ day, view, left, onKind, onAll, folded, onFold }: Props) {
  const resting = day.placements.length - taking(day).length;
  const shown = VERDICTS.filter((verdict) => verdict !== 'by_hand' || day.counts.by_hand > 0);
  return (
    <footer className="flex shrink-0 items-center gap-3 border-t border-line px-3 py-1 text-[12px] text-soft">
      {day.pass && (
        <span
          className="min-w-0 truncate"
          title={
            resting > 0 ? `${resting} ${resting === 1 ? 'clip takes' : 'clips take'} no part` : undefined
          }
        >
          {shown.map((verdict, i) => (
            <Fragment key={verdict}>
              {i > 0 && ' · '}
              <button
                type="button"
                title={`Choose all that are ${VERDICT[verdict].toLowerCase()}`}
                onClick={() => onKind({ verdict })}
                className="hover:underline"
              >
                {day.counts[verdict]} {VERDICT[verdict].toLowerCase()}
              </button>
            </Fragment>
          ))}
          , in {day.pass.took_s.toFixed(1)} s{resting > 0 && ` · ${resting} take no part`}
        </span>
      )}
      {left > 0 && (
        <Link href="/bench/round" className="whitespace-nowrap text-accent underline">
          {left} to look at
        </Link>
      )}
      <span className="flex-1" />
      <ChooseKind day={day} onKind={onKind} onAll={onAll} />
      {view && (
        <>
          <label
            className="flex items-center gap-1"
            title="Fold long stretches in which only some devices ran"
          >
            <input type="checkbox" checked={folded} onChange={onFold} className="accent-accent" />
            Fold
          </label>
          <label className="flex items-center gap-2">
            <span className="sr-only">Scale</span>
            <input
              type="range"
              aria-label="Scale of the sheet"
              aria-valuetext={scaleSaid(view.scale)}
              min={Math.log(SCALES.least)}
              max={Math.log(SCALES.most)}
              step={0.02}
              value={Math.log(view.scale)}
              onChange={(event) => view.zoomTo(Math.exp(Number(event.target.value)))}
              className="w-20 accent-accent"
            />
            <span className="num w-[116px] whitespace-nowrap">{scaleSaid(view.scale)}</span>
          </label>
          <Button small onClick={view.whole}>
            Whole day
          </Button>
        </>
      )}
    </footer>
  );
}

type KindProps = Pick<Props, 'day' | 'onKind' | 'onAll'>;

/** Chooses all clips of a device, a verdict or a scene. */
function ChooseKind({ day, onKind, onAll }: KindProps) {
  const take = (value: string) => {
    const [what, which = ''] = [value.slice(0, value.indexOf(' ')), value.slice(value.indexOf(' ') + 1)];
    if (what === 'device') onKind({ device: Number(which) });
    else if (what === 'verdict') onKind({ verdict: which as Verdict });
    else if (what === 'scene') onKind({ scene: which });
    else onAll();
  };
  const named = useMemo(() => scenes(day), [day]);
  return (
    <select
      aria-label="Choose clips"
      value=""
      onChange={(event) => {
        take(event.target.value);
        event.target.blur();
      }}
      className="w-[92px] rounded-[3px] border border-line bg-sheet px-1 py-0.5"
    >
      <option value="" disabled>
        Choose …
      </option>
      <option value="all ">all clips</option>
      <optgroup label="of a device">
        {day.devices.map((device) => (
          <option key={device.id} value={`device ${device.id}`}>
            {device.letter} {device.name}
          </option>
        ))}
      </optgroup>
      {day.pass && (
        <optgroup label="of a verdict">
          {VERDICTS.map((verdict) => (
            <option key={verdict} value={`verdict ${verdict}`}>
              {VERDICT[verdict].toLowerCase()}
            </option>
          ))}
        </optgroup>
      )}
      {named.length > 0 && (
        <optgroup label="of a scene">
          {named.map((scene) => (
            <option key={scene} value={`scene ${scene}`}>
              scene {scene}
            </option>
          ))}
        </optgroup>
      )}
    </select>
  );
}

/** What a finger's breadth of the sheet is: a hundred pixels. */
function scaleSaid(scale: number): string {
  const seconds = 100 / scale;
  const said =
    seconds >= 5400
      ? `${(seconds / 3600).toFixed(1)} h`
      : seconds >= 90
        ? `${Math.round(seconds / 60)} min`
        : seconds >= 10
          ? `${Math.round(seconds)} s`
          : `${seconds.toFixed(seconds < 1 ? 2 : 1)} s`;
  return `100 px = ${said}`;
}

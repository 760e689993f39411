import { useCommands } from '../../api/commands';
import type { Day } from '../../api/day';
import type { Evidence } from '../../api/types';
import { zeroOf } from '../../model/axis';
import { clock, signed } from '../../model/format';
import { stemOf } from '../../model/names';

const KIND: Record<Evidence['kind'], string> = {
  waveform: 'Sound',
  file_timecode: 'File timecode',
  audio_timecode: 'Audio timecode',
  slate: 'Slate',
  device_clock: 'Own clock',
  hand: 'By hand',
};

type Props = { day: Day; clip: number; evidence: Evidence; busy: boolean };

/** A piece of evidence for a clip's place, to be set aside and taken back: the place answers at once. */
export function Piece({ day, clip, evidence, busy }: Props) {
  const { setAside } = useCommands();
  const { kind, against, aside, used, start_s, sigma_s, disagrees_by_s } = evidence;
  const other = against !== null && (kind === 'waveform' || kind === 'slate') ? stemOf(day, against) : '';
  const called = `${KIND[kind]}${other && ` of ${other}`}`;
  const turn = () => void setAside({ clip, kind, against, aside: !aside });
  const word = kind === 'hand' ? 'Release' : aside ? 'Use again' : 'Set aside';
  return (
    <li className="border-t border-line py-1.5">
      <div className="flex items-baseline gap-2">
        <span className={`min-w-0 flex-1 ${aside ? 'text-soft line-through' : ''}`}>
          <b className="font-semibold">{KIND[kind]}</b>
          {other && ` matches ${other}`}
        </span>
        {clip !== day.pass?.origin && (
          <button
            type="button"
            aria-label={`${word}: ${called}`}
            disabled={busy}
            onClick={turn}
            className="shrink-0 text-[12px] text-accent underline disabled:text-soft disabled:no-underline"
          >
            {word.toLowerCase()}
          </button>
        )}
      </div>
      <div className="num flex justify-between text-soft">
        <span>{clock(zeroOf(day.pass) + start_s, 3)}</span>
        <span>± {sigma_s < 0.1 ? `${(sigma_s * 1000).toFixed(3)} ms` : `${sigma_s.toFixed(1)} s`}</span>
      </div>
      {aside && <div className="text-soft">set aside: it has no say{says(disagrees_by_s)}</div>}
      {!aside && !used && kind === 'device_clock' && (
        <div className="text-soft">coarse: used for the order only</div>
      )}
      {!aside && !used && kind !== 'device_clock' && (
        <div className="text-check">disagrees by {signed(disagrees_by_s, 3)} s: not used</div>
      )}
    </li>
  );
}

/** How far off it is, where that is anything. */
const says = (by: number) =>
  Math.abs(by) < 5e-4 ? '' : `; it would put the clip ${signed(by, 3)} s from here`;

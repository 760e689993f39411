import { useMemo, useState } from 'react';
import { useLocation } from 'wouter';
import { useCommands, useTurned } from '../../api/commands';
import type { Day } from '../../api/day';
import type { ClipView } from '../../api/types';
import { extent, heardAt, type Window } from '../../model/mirror';
import { stem } from '../../model/names';
import { partners, placeOf, rateOf } from '../../model/pair';
import type { Doubt } from '../../model/round';
import { Button } from '../../parts/Button';
import { Choice } from '../../parts/Choice';
import { Laid } from './Laid';
import { clockRange, type Pair } from './usePair';

/** What was decided so far, for taking it back: looks, and places that made passes of their own. */
export type Decided = {
  note: (what: 'look' | 'place') => void;
  /** What the last decision was, taken off the list. */
  last: () => 'look' | 'place';
};

type Props = {
  day: Day;
  clip: ClipView;
  against: ClipView;
  /** What of the round this clip is, if it is in it. */
  doubt: Doubt | undefined;
  /** Decisions of this round, the last one last. */
  decided: Decided;
  onAgainst: (clip: number) => void;
  onNext: (by: 1 | -1) => void;
  onDeclare: () => void;
};

/** Less than a sample of any sound: where it lies is where it was placed, seconds. */
const SAME_S = 4e-6;
/** Partners that are offered: those that ran with it come first. */
const OFFERED = 60;

/** Two clips against each other: where the one lies, and what is decided of it. */
export function Against({ day, clip, against, doubt, decided, onAgainst, onNext, onDeclare }: Props) {
  const run = useCommands();
  const said = useTurned();
  const [, go] = useLocation();
  const [shift, setShift] = useState(0);
  const [beside, setBeside] = useState<number | null>(null);
  const pair = useMemo<Pair>(() => {
    const reference = placeOf(day, against, 0);
    const placed = placeOf(day, clip, extent(heardAt(reference)).from);
    return { clip, against, reference, placed, shift, rate: rateOf(clip, against) };
  }, [day, clip, against, shift]);
  const { reference, placed } = pair;
  const whole = useMemo<Window>(() => {
    const [a, b] = [extent(heardAt(reference)), extent(heardAt(placed, shift))];
    return { from: Math.min(a.from, b.from) - 1, to: Math.max(a.to, b.to) + 1 };
  }, [reference, placed, shift]);
  const range = clockRange(whole);
  const isPlaced = placed.verdict !== 'unplaced';
  const stays = isPlaced && Math.abs(shift) < SAME_S;
  const right = async () => {
    if (stays) await run.look({ clips: [clip.id], finding: 'right' });
    else {
      const start = (placed.stretches[0]?.start_s ?? 0) + shift;
      await run.layByHand({ clip: clip.id, start_us: Math.round(start * 1e6) });
    }
    decided.note(stays ? 'look' : 'place');
    onNext(1);
  };
  const aside = async () => {
    await run.look({ clips: [clip.id], finding: 'aside' });
    decided.note('look');
    onNext(1);
  };
  const undo = () => (decided.last() === 'place' ? run.turnShown('undo') : run.turnRound('undo'));
  const others = useMemo(
    // Where the clip has no place, what ran with the other comes first.
    () =>
      partners(day, isPlaced ? clip : against).filter((one) => one.id !== against.id && one.id !== clip.id),
    [day, clip, against, isPlaced],
  );
  const third = useMemo(() => {
    const found = others.find((one) => one.id === beside);
    return found ? { clip: found, placed: placeOf(day, found, 0) } : null;
  }, [day, others, beside]);
  const nextBeside = (way: 1 | 0) => {
    const next =
      others[(others.findIndex((one) => one.id === beside) + 1) % Math.min(others.length, OFFERED)];
    setBeside(way === 0 ? null : (next?.id ?? null));
  };
  return (
    <Laid
      // Where it is laid beyond the clock of both, there is another clock.
      key={`${range.from} ${range.to}`}
      day={day}
      pair={pair}
      third={third}
      whole={whole}
      range={range}
      isPlaced={isPlaced}
      onShift={(to) => setShift(Math.abs(to) < 1e-9 ? 0 : to)}
      onBreak={(edit) => void run.changeBreak({ clip: clip.id, edit }).then(() => decided.note('place'))}
      does={{
        third: nextBeside,
        declare: onDeclare,
        right: () => void right(),
        aside: () => void aside(),
        doubt: onNext,
        slate: () => go(`/bench/${clip.id}`),
        undo: () => void undo().then((turned) => said('undo', turned)),
        redo: () => void run.turnRound('redo').then((turned) => said('redo', turned)),
      }}
    >
      <Choice label="Against" value={against.id} onChange={(id) => onAgainst(Number(id))}>
        {[against, ...others].slice(0, OFFERED).map((one) => (
          <option key={one.id} value={one.id}>
            {stem(one)}
          </option>
        ))}
      </Choice>
      <Choice label="Beside" value={beside ?? ''} onChange={(id) => setBeside(id === '' ? null : Number(id))}>
        <option value="">none</option>
        {others.slice(0, OFFERED).map((one) => (
          <option key={one.id} value={one.id}>
            {stem(one)}
          </option>
        ))}
      </Choice>
      <span className="flex-1" />
      <Button small onClick={() => void aside()}>
        Set aside
      </Button>
      <Button main small onClick={() => void right()}>
        {stays ? 'Right' : 'Lay it here'}
        {doubt ? ', next doubt' : ''}
      </Button>
    </Laid>
  );
}

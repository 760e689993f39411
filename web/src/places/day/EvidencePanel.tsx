import { memo } from 'react';
import { Link } from 'wouter';
import type { Day } from '../../api/day';
import type { PassPlan, PlacementView } from '../../api/types';
import { Distance } from './Distance';
import { LayByHand } from './LayByHand';
import { LookAgain } from './LookAgain';
import { PassNotes } from './PassNotes';
import { Piece } from './Piece';
import { Several } from './Several';
import { SoundUnder } from '../../parts/SoundUnder';
import type { Rough } from './useRough';
import type { Chosen } from '../../model/chosen';
import { islandOf, lies } from '../../model/island';
import { late, runs, zeroOf } from '../../model/axis';
import { clock, length, offset, rate, signed, speed } from '../../model/format';
import { Stamp } from '../../parts/Stamp';
import { VerdictMark } from '../../parts/VerdictMark';
import type { Changes } from './useChanges';

type PanelProps = {
  day: Day;
  chosen: Chosen;
  /** Where a hand put a clip. */
  rough: Rough | null;
  /** Nothing is to be done there any more. */
  onRoughDone: () => void;
  /** What changed since another pass. */
  since: Changes;
  /** A pass is running. */
  busy: boolean;
  /** Places clips anew; all others stay. */
  onLook: (plan: Partial<PassPlan>) => void;
  onChoose: (clip: number) => void;
  onSeveral: (clips: readonly number[]) => void;
};

/** The right margin: why the chosen clip lies where it lies, in sentences. */
export const EvidencePanel = memo(function EvidencePanel(props: PanelProps) {
  const { day, chosen, since, busy, onLook, onChoose, onSeveral, onRoughDone } = props;
  const id = chosen.lead;
  const rough = props.rough?.clip === id && !props.rough?.held ? props.rough : null;
  const clip = day.clips.find((one) => one.id === id);
  const placed = day.placements.find((one) => one.clip === id);
  return (
    <aside
      aria-label="Evidence"
      className="w-[300px] shrink-0 overflow-y-auto border-l border-line bg-sheet px-4 py-3"
    >
      {!clip && (
        <>
          <p className="text-soft">Choose a clip to see why it lies where it lies.</p>
          <PassNotes day={day} since={since} onChoose={onChoose} onSeveral={onSeveral} />
        </>
      )}
      {chosen.all.size > 1 && (
        <Several day={day} clips={chosen.all} busy={busy} onLook={onLook} onChoose={onChoose} />
      )}
      {clip && chosen.all.size <= 1 && (
        <>
          <h2 className="flex items-center gap-2 text-[15px] font-semibold">
            <Stamp devices={day.devices} id={clip.device} />
            <span className="num truncate" title={clip.relative}>
              {clip.file_name}
            </span>
          </h2>
          <p className="num pt-1 text-soft">
            {clip.facts.picture ? `${rate(clip.facts.picture.rate)} fps · ` : ''}
            {length(clip.facts.duration_s)}
          </p>
          {rough && (
            <p className="pt-2" data-testid="rough-said">
              You put it at <span className="num">{clock(rough.at, 2)}</span>. Look near it, or lay it there.
            </p>
          )}
          {placed ? (
            <Placed day={day} placed={placed} busy={busy} />
          ) : (
            <p className="pt-3 text-soft">Not in this pass. Sync the day to place it.</p>
          )}
          {placed && <SoundUnder clip={clip} />}
          {placed && day.pass && clip.id !== day.pass.origin && clip.facts.sound && (
            <LookAgain
              key={`${clip.id} ${rough?.at}`}
              day={day}
              placed={placed}
              busy={busy}
              rough={rough}
              onLook={(plan) => {
                onLook(plan);
                if (plan.near) onRoughDone();
              }}
            />
          )}
          {clip.facts.picture && clip.facts.sound && (
            <Distance key={`far ${clip.id}`} day={day} clip={clip} />
          )}
          {day.pass && clip.id !== day.pass.origin && (
            <LayByHand
              key={`hand ${clip.id} ${day.pass.id}`}
              day={day}
              clip={clip}
              rough={rough?.at ?? null}
              onLaid={onRoughDone}
            />
          )}
          <p className="flex flex-wrap gap-x-4 border-t border-line py-2">
            {day.pass && (
              <Link href={`/bench/${clip.id}/against`} className="text-accent underline">
                Lay it against another
              </Link>
            )}
            <Link href={`/bench/${clip.id}`} className="text-accent underline">
              Mark its slate at the Bench
            </Link>
          </p>
        </>
      )}
    </aside>
  );
});

function Placed({ day, placed, busy }: { day: Day; placed: PlacementView; busy: boolean }) {
  const { placement } = placed;
  const zero = zeroOf(day.pass);
  const clip = day.clips.find((one) => one.id === placed.clip);
  const group = day.groups.find(({ group }) =>
    group.angles.some((angle) => angle.parts.some((part) => part.clip === placed.clip)),
  );
  const [whole] = runs(placement.stretches).sort((a, b) => b.length - a.length);
  const first = placement.stretches[0];
  const island = first && islandOf(day, placement.component);
  const bends = whole && whole.length > 1 ? whole : null;
  const rates = bends?.map((stretch) => signed(stretch.rate_ppm, 1));
  const retimed = first && speed(first.rate_ppm);
  const fps = group?.group.start.rate ?? { num: 25, den: 1 };
  return (
    <>
      <div className="pt-3 pb-1 text-[14px]">
        <VerdictMark verdict={placement.verdict} word />
      </div>
      {placement.reasons.map((reason) => (
        <p key={reason} className="pb-1">
          {reason}
        </p>
      ))}
      {island && (
        <p className="pb-1" data-testid="island">
          An island: sound ties it to nothing else of the day. {lies(day, island)}
        </p>
      )}
      <ul className="pt-1" aria-label="Evidence of the clip">
        {placement.evidence.map((evidence) => (
          <Piece
            key={`${evidence.kind} ${evidence.against} ${evidence.aside}`}
            day={day}
            clip={placed.clip}
            evidence={evidence}
            busy={busy}
          />
        ))}
      </ul>
      {first && placement.evidence[0]?.kind === 'waveform' && clip && clip.device !== day.pass?.reference && (
        <div className="border-t border-line py-1.5">
          <div>
            <b className="font-semibold">{retimed ? 'Speed' : 'Drift'}</b>{' '}
            {retimed ? (
              <span className="num">{retimed}</span>
            ) : rates ? (
              <span className="num">
                {rates[0]} to {rates.at(-1)} ppm
              </span>
            ) : (
              <span className="num">{signed(first.rate_ppm, 2)} ppm</span>
            )}{' '}
            <span className="num text-soft">
              ± {first.rate_sigma_ppm.toFixed(2)}
              {retimed && ' ppm'}
            </span>
          </div>
          <div className="text-soft">
            Left alone, its end would be{' '}
            <span className="num">{offset(-late(placement.stretches), fps)}</span> out.
          </div>
        </div>
      )}
      {placement.covered !== null && placement.covered !== undefined && (
        <div className="border-t border-line py-1.5 text-soft">
          Windows that agree cover <span className="num">{Math.round(placement.covered * 100)} %</span> of
          what was compared.
        </div>
      )}
      {placement.alternatives.length > 0 && (
        <div className="border-t border-line py-1.5">
          <b className="font-semibold">Where else it could lie</b>
          {placement.alternatives.map((other) => (
            <div key={other.start_s} className="num flex justify-between text-soft">
              <span>{clock(zero + other.start_s, 3)}</span>
              <span>{Math.round(other.score * 100)} %</span>
            </div>
          ))}
        </div>
      )}
      {group && (
        <p className="border-t border-line py-2">
          In group{' '}
          <Link href={`/switch/${group.id}`} className="text-accent underline">
            {group.group.name}
          </Link>
        </p>
      )}
    </>
  );
}

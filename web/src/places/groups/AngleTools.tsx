import type { Day } from '../../api/day';
import type { Angle, GroupSummary } from '../../api/types';
import { angleName, clipsOf } from '../../model/angles';
import { stemOf } from '../../model/names';
import { Button } from '../../parts/Button';
import { Editable } from '../../parts/Editable';
import type { AngleHands } from './useAngles';

type Props = {
  day: Day;
  summary: GroupSummary;
  angle: Angle | undefined;
  hands: AngleHands;
};

/** What can be done to the chosen angle, and to its clip at the playhead. */
export function AngleTools({ day, summary: { id, group }, angle, hands }: Props) {
  if (!angle) return null;
  const clip = hands.clip === null ? null : stemOf(day, hands.clip);
  const elsewhere = day.groups.filter(
    (own) => own.id !== id && clipsOf(own.group).some((other) => other === hands.clip),
  );
  return (
    <div
      className="flex flex-wrap items-center gap-x-2 gap-y-1.5 pb-2"
      role="group"
      aria-label="Chosen angle"
    >
      <Editable
        key={angle.id}
        id="angle-name"
        label="Name of the angle"
        value={angle.name ?? ''}
        placeholder={angleName(day, group, { ...angle, name: null })}
        max={80}
        onSave={hands.name}
        className="w-40 font-semibold"
      />
      <Button small onClick={hands.hide}>
        {angle.hidden ? 'Show it again' : 'Set aside'}
      </Button>
      <Button small onClick={hands.remove}>
        Remove
      </Button>
      <span className="mx-1 h-5 border-l border-line" />
      <span className={`max-w-36 truncate ${clip ? 'num' : 'text-soft'}`} title={clip ?? undefined}>
        {clip ?? 'no clip here'}
      </span>
      {elsewhere.length > 0 && (
        <span className="max-w-44 truncate text-soft" title="what is done here is not done there">
          also in {elsewhere.map((own) => own.group.name).join(', ')}
        </span>
      )}
      <Button small disabled={!clip} onClick={() => hands.nudge(-1)}>
        −1 f
      </Button>
      <Button small disabled={!clip} onClick={() => hands.nudge(1)}>
        +1 f
      </Button>
      <Button small disabled={!clip && hands.blankFrom === null} onClick={hands.blank}>
        {hands.blankFrom === null ? 'Blank from here' : 'Blank to here'}
      </Button>
      <Button small disabled={!clip} onClick={hands.aside}>
        Clip aside
      </Button>
    </div>
  );
}

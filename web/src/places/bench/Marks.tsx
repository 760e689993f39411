import type { ClipView } from '../../api/types';
import { Button } from '../../parts/Button';
import { markAt, said, slate } from '../../model/marks';

type Props = {
  clip: ClipView;
  /** The moment at the playhead, microseconds. */
  at: number;
  does: {
    markHere: () => void;
    markBetween: () => void;
    markPeak: () => void;
    takeOff: () => void;
    move: (seconds: number) => void;
  };
  onLabel: (text: string) => void;
  onTake: (text: string) => void;
};

/** What is marked of a take, one line for each clap, and what can be marked where the playhead is. */
export function Marks({ clip, at, does, onLabel, onTake }: Props) {
  const { picture, sound } = clip.facts;
  const heard = clip.channels !== null && sound !== null;
  const here = markAt(clip.marks, at);
  const mark = clip.marks[here];
  return (
    <div className="w-[360px] shrink-0" aria-label="Marks" role="group">
      <div className="flex flex-wrap gap-2 pb-2">
        <Button small main onClick={does.markHere}>
          {picture ? 'Mark this frame' : 'Mark the peak'}
        </Button>
        {picture && (
          <Button small onClick={does.markBetween}>
            Between
          </Button>
        )}
        {picture && heard && (
          <Button small onClick={does.markPeak}>
            Own peak
          </Button>
        )}
        {mark && (
          <Button small onClick={does.takeOff}>
            Take off
          </Button>
        )}
      </div>
      <div className="num max-h-[72px] overflow-y-auto" data-testid="marks">
        {clip.marks.length === 0 && 'Nothing marked yet.'}
        {clip.marks.map((one, i) => (
          <button
            key={`${one.picture_us} ${one.sound_us}`}
            type="button"
            aria-current={i === here}
            onClick={() => does.move((one.picture_us ?? one.sound_us ?? 0) / 1e6)}
            className={`block w-full text-left ${i === here ? 'font-semibold' : ''}`}
          >
            {said(one)}
          </button>
        ))}
      </div>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 pt-1.5">
        {picture && (
          <Field
            name="Timecode on it"
            shown={mark?.label ?? ''}
            hint="09:14:02:05"
            id="slate-timecode"
            wide
            onGive={onLabel}
          />
        )}
        {mark && (
          <Field name="Slate of" shown={mark.take ?? ''} hint={slate(clip) || '2 / 3'} onGive={onTake} />
        )}
      </div>
    </div>
  );
}

type FieldProps = {
  name: string;
  shown: string;
  hint: string;
  id?: string;
  wide?: boolean;
  onGive: (text: string) => void;
};

/** A short text that is given with Enter. */
function Field({ name, shown, hint, id, wide = false, onGive }: FieldProps) {
  return (
    <label className="flex items-center gap-2">
      <span className="text-soft">{name}</span>
      <input
        id={id}
        key={shown}
        defaultValue={shown}
        placeholder={hint}
        className={`num rounded-[3px] border border-line bg-sheet px-1.5 py-0.5 ${wide ? 'w-[106px]' : 'w-[64px]'}`}
        onKeyDown={(event) => {
          if (event.key === 'Escape') event.currentTarget.blur();
          if (event.key !== 'Enter') return;
          onGive(event.currentTarget.value.trim());
          event.currentTarget.blur();
        }}
      />
    </label>
  );
}

import type { FilmForm as Form, FilmsView } from '../../api/types';
import { WRAPPERS } from '../../model/films';
import { Check } from '../../parts/Check';
import { Choice } from '../../parts/Choice';
import { Into } from '../../parts/Into';

type Props = {
  view: FilmsView;
  form: Form;
  folder: string;
  onForm: (form: Form) => void;
  onFolder: (folder: string) => void;
};

const BURNS = [
  ['name', 'the clip’s name'],
  ['timecode', 'timecode'],
  ['scene', 'scene and take'],
  ['notes', 'notes'],
] as const;

const GRADES = [
  ['small', 'sent: small'],
  ['good', 'looked at'],
  ['fine', 'worked with'],
  ['recorded', 'as recorded'],
] as const;

const ROWS = [2160, 1080, 720, 540, 360];

/** How films are made: how they are coded, what is heard, what is written into them, and where they go. */
export function FilmForm({ view, form, folder, onForm, onFolder }: Props) {
  const set = (some: Partial<Form>) => onForm({ ...form, ...some });
  const codec = view.codecs.find((own) => own.codec === form.codec);
  const choose = (word: string) => {
    const own = view.codecs.find(({ codec }) => codec === word);
    if (!own) return;
    const fits = own.wrappers.includes(form.wrapper);
    set({ codec: own.codec, wrapper: fits ? form.wrapper : (own.wrappers[0] ?? form.wrapper) });
  };
  return (
    <section
      aria-label="How they are made"
      className="w-[264px] shrink-0 overflow-y-auto border-r border-line px-4 py-3"
    >
      <h2 className="pb-1 text-[14px] font-semibold">Pictures</h2>
      <div className="flex flex-col items-end gap-1">
        <Choice label="Codec" value={form.codec} onChange={choose}>
          {view.codecs.map((own) => (
            <option key={own.codec} value={own.codec}>
              {own.name}
            </option>
          ))}
        </Choice>
        <Choice
          label="Held by"
          value={form.wrapper}
          onChange={(word) => set({ wrapper: codec?.wrappers.find((own) => own === word) ?? form.wrapper })}
        >
          {codec?.wrappers.map((own) => (
            <option key={own} value={own}>
              {WRAPPERS[own]}
            </option>
          ))}
        </Choice>
        {form.codec !== 'ffv1' && (
          <Choice
            label="To be"
            value={form.grade}
            onChange={(word) => set({ grade: GRADES.find(([own]) => own === word)?.[0] ?? 'good' })}
          >
            {GRADES.map(([own, word]) => (
              <option key={own} value={own}>
                {word}
              </option>
            ))}
          </Choice>
        )}
        <Choice
          label="Size"
          value={form.height ?? ''}
          onChange={(rows) => set({ height: rows === '' ? null : Number(rows) })}
        >
          <option value="">as it is</option>
          {ROWS.map((rows) => (
            <option key={rows} value={rows}>
              {rows} rows
            </option>
          ))}
        </Choice>
      </div>
      {form.grade === 'recorded' && form.codec !== 'ffv1' && (
        <p className="pt-1 text-[12px] text-soft">
          What nothing is changed of is copied, where the camera’s pictures are {codec?.name} too; cuts,
          dissolves and the like are coded to fit. How much that was is said with each film.
        </p>
      )}
      <Check
        word="seen through the viewing LUTs"
        on={form.through}
        onTurn={(through) => set({ through })}
        className="gap-2 pt-1.5"
      />
      <h2 className="mt-3 border-t border-line pt-3 pb-1 text-[14px] font-semibold">Sound</h2>
      <div className="flex flex-col items-end gap-1">
        <Choice
          label="Heard"
          value={form.sound}
          onChange={(word) =>
            set({ sound: word === 'tracks' || word === 'both' || word === 'silent' ? word : 'mix' })
          }
        >
          <option value="mix">the grid’s mix</option>
          <option value="tracks">every track</option>
          <option value="both">mix, then tracks</option>
          <option value="silent">nothing</option>
        </Choice>
      </div>
      <p className="pt-1 text-[12px] text-soft">
        {form.wrapper === 'mp4'
          ? 'Coded as AAC: an MP4 holds no plain samples.'
          : '24 bit, 48 kHz, nothing lost.'}{' '}
        Corrected to the picture’s clock.
      </p>
      <h2 className="mt-3 border-t border-line pt-3 text-[14px] font-semibold">Written into the picture</h2>
      {BURNS.map(([what, word]) => (
        <Check
          key={what}
          word={word}
          on={form.burn[what]}
          onTurn={(on) => set({ burn: { ...form.burn, [what]: on } })}
          className="gap-2 pt-1.5"
        />
      ))}
      <div className="mt-3 border-t border-line pt-2">
        <Into folder={folder} folders={view.folders} onFolder={onFolder} />
      </div>
      <p className="pt-2 text-[12px] break-words text-soft">
        Into <span className="num">{folder || view.own}</span>. A film has its name only when it is whole,
        counted, looked at and its sound compared; what was broken off goes on where it was.
      </p>
    </section>
  );
}

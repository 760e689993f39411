import type { GroupView, LineEdit, MarkerColour } from '../../api/types';
import { timecode } from '../../model/format';
import { Button } from '../../parts/Button';
import { Editable } from '../../parts/Editable';
import { MARKER_COLOURS, markerHue } from './marker';

type Props = {
  view: GroupView;
  /** What is looked for in the notes. */
  wanted: string;
  onWant: (wanted: string) => void;
  onSeek: (frame: number) => void;
  onEdit: (edit: LineEdit) => void;
};

/** Markers of the line: where, in which colour, with what note; those whose notes have a word in them. */
export function Markers({ view: { group, line }, wanted, onWant, onSeek, onEdit }: Props) {
  const all = line.markers ?? [];
  const found = all.filter(({ note }) => note.toLowerCase().includes(wanted.trim().toLowerCase()));
  const label = (at: number) => timecode({ ...group.start, frames: group.start.frames + at });
  if (all.length === 0) return null;
  return (
    <section aria-label="Markers" className="flex max-h-[34%] flex-col border-t border-line pt-2">
      <div className="flex items-center gap-2 pb-1">
        <h2 className="flex-1 text-[14px] font-semibold">
          Markers <span className="font-normal text-soft">{all.length}</span>
        </h2>
        <input
          id="marker-find"
          aria-label="Find in notes"
          placeholder="find in notes"
          value={wanted}
          onChange={(event) => onWant(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === 'Enter' && found[0]) onSeek(found[0].at);
            if (event.key === 'Escape' || event.key === 'Enter') event.currentTarget.blur();
          }}
          className="w-28 rounded-[3px] border border-line bg-sheet px-1.5 py-0.5"
        />
      </div>
      <ul className="min-h-0 overflow-y-auto">
        {found.map((marker) => (
          <li key={marker.at} className="flex h-8 items-center gap-2 border-t border-line">
            <select
              aria-label={`Colour of the marker at ${label(marker.at)}`}
              value={marker.colour}
              onChange={(event) => {
                const colour = event.target.value as MarkerColour;
                onEdit({ do: 'put_marker', marker: { ...marker, colour } });
                event.target.blur();
              }}
              className="h-4 w-4 appearance-none rounded-full"
              style={{ background: markerHue(marker.colour), color: 'transparent' }}
            >
              {MARKER_COLOURS.map((colour) => (
                <option key={colour} value={colour} style={{ color: 'black' }}>
                  {colour}
                </option>
              ))}
            </select>
            <button type="button" className="num hover:underline" onClick={() => onSeek(marker.at)}>
              {label(marker.at)}
            </button>
            <Editable
              id={`marker-${marker.at}`}
              label={`Note of the marker at ${label(marker.at)}`}
              value={marker.note}
              placeholder="note"
              max={500}
              onSave={(note) => onEdit({ do: 'put_marker', marker: { ...marker, note } })}
              className="min-w-0 flex-1"
            />
            <Button
              small
              aria-label={`Take the marker at ${label(marker.at)} away`}
              onClick={() => onEdit({ do: 'take_marker', at: marker.at })}
            >
              ×
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}

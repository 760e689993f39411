import { useState } from 'react';
import type { GridStep, GridView } from '../../api/types';
import { Button } from '../Button';

type Props = { view: GridView; onStep: (step: GridStep) => void };

/** Grids that are kept for other groups: taken, kept, forgotten. */
export function GridKept({ view, onStep }: Props) {
  const [name, setName] = useState<string | null>(null);
  const keep = (usual: boolean) => {
    if (name?.trim()) onStep({ do: 'keep', name, usual });
    setName(null);
  };
  if (name !== null) {
    return (
      <form
        className="flex items-center gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          keep(true);
        }}
      >
        <input
          autoFocus
          aria-label="Name under which the grid is kept"
          placeholder="name"
          value={name}
          maxLength={80}
          list="kept-grids"
          onChange={(event) => setName(event.target.value)}
          onKeyDown={(event) => {
            event.stopPropagation();
            if (event.key === 'Escape') {
              event.preventDefault();
              setName(null);
            }
          }}
          className="w-[150px] rounded-[3px] border border-line bg-sheet px-2 py-0.5"
        />
        <datalist id="kept-grids">
          {view.kept.map((own) => (
            <option key={own} value={own} />
          ))}
        </datalist>
        <Button small type="submit">
          Keep, for all groups
        </Button>
        <Button small onClick={() => keep(false)}>
          Only keep
        </Button>
      </form>
    );
  }
  return (
    <>
      <Button small onClick={() => setName(view.usual ?? '')}>
        Keep as…
      </Button>
      {view.kept.length > 0 && (
        <select
          aria-label="Kept grids"
          value=""
          onChange={(event) => {
            const [what, own] = [event.target.value.slice(0, 1), event.target.value.slice(1)];
            event.target.blur();
            if (what === 't') onStep({ do: 'take', name: own });
            if (what === 'd') onStep({ do: 'drop', name: own });
          }}
          className="max-w-[190px] rounded-[3px] border border-line bg-sheet px-2 py-0.5"
        >
          <option value="">Kept grids…</option>
          {view.kept.map((own) => (
            <option key={`t${own}`} value={`t${own}`}>
              As {own}
              {own === view.usual ? ' (all groups)' : ''}
            </option>
          ))}
          {view.kept.map((own) => (
            <option key={`d${own}`} value={`d${own}`}>
              Forget {own}
            </option>
          ))}
        </select>
      )}
      {view.origin.from === 'own' && (
        <Button small onClick={() => onStep({ do: 'usual' })}>
          As other groups
        </Button>
      )}
    </>
  );
}

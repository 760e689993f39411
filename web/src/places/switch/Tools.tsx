import { DarkButton } from './Foot';

/** A button below the wall: what it says, and what it does. */
export type Tool = readonly [string, () => void];

/** Buttons below the wall. */
export const Tools = ({ all }: { all: readonly (Tool | null)[] }) =>
  all.flatMap((tool) =>
    tool
      ? [
          <DarkButton key={tool[0]} onClick={tool[1]}>
            {tool[0]}
          </DarkButton>,
        ]
      : [],
  );

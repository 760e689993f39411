import { useRef } from 'react';
import { Button } from './Button';

type Props = {
  /** What the button says. */
  word: string;
  /** What is chosen with it. */
  label: string;
  /** What the names of such files end with. */
  accept: string;
  multiple?: boolean;
  small?: boolean;
  onFiles: (files: File[]) => void;
};

/** A button that has files of this computer chosen. */
export function FilePick({ word, label, accept, multiple = false, small = false, onFiles }: Props) {
  const field = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button small={small} onClick={() => field.current?.click()}>
        {word}
      </Button>
      <input
        ref={field}
        type="file"
        hidden
        multiple={multiple}
        accept={accept}
        aria-label={label}
        onChange={({ target }) => {
          const chosen = [...(target.files ?? [])];
          // The same can be chosen again.
          target.value = '';
          if (chosen.length > 0) onFiles(chosen);
        }}
      />
    </>
  );
}

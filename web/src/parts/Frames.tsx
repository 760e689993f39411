type Props = { label: string; value: number; disabled?: boolean; onSet: (frames: number) => void };

/** A number of frames that is typed; none where it is empty. */
export function Frames({ label, value, disabled = false, onSet }: Props) {
  const set = (text: string) => {
    const frames = Math.max(0, Math.round(Number(text) || 0));
    if (frames !== value) onSet(frames);
  };
  return (
    <label className="flex items-center gap-1.5">
      <span className="text-soft">{label}</span>
      <input
        // What is typed and refused goes back to what is there.
        key={value}
        type="number"
        min={0}
        disabled={disabled}
        defaultValue={value}
        onBlur={(event) => set(event.target.value)}
        onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
        className="num w-14 rounded-[3px] border border-line bg-sheet px-1 py-0.5 disabled:opacity-50"
      />
    </label>
  );
}

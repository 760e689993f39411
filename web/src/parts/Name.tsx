/** A name with its end to be read where there is no room for all of it: files differ in their last letters. */
export function Name({ text, className = '' }: { text: string; className?: string }) {
  const cut = Math.max(0, text.length - 4);
  return (
    <span className={`num flex min-w-0 whitespace-pre ${className}`} title={text}>
      <span className="truncate">{text.slice(0, cut)}</span>
      <span className="shrink-0">{text.slice(cut)}</span>
    </span>
  );
}

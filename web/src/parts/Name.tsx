/** A name with its end to be read where there is no room for all of it: files differ in their last letters. */
export function Name({ text, className = '' }: { text: string; className?: string }) {
  const cut = Math.max(0, text.length - 4);
  return (
    <span className={`num block min-w-0 overflow-hidden whitespace-pre ${className}`} title={text}>
      <span className="inline-block max-w-[calc(100%-4ch)] truncate align-bottom">{text.slice(0, cut)}</span>
      {text.slice(cut)}
    </span>
  );
}

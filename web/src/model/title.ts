/** Titles: text as a picture. */

/** Lines of a title, each short enough for its width as `measure` has it: broken between words where it can be. */
export function linesOf(text: string, measure: (line: string) => number, width: number): string[] {
  return text.split('\n').flatMap((line) => {
    const lines: string[] = [];
    let own = '';
    for (const word of line.split(/\s+/).filter(Boolean)) {
      const longer = own ? `${own} ${word}` : word;
      if (own && measure(longer) > width) {
        lines.push(own);
        own = word;
      } else {
        own = longer;
      }
    }
    return [...lines, own];
  });
}

/** The path that a title is kept under: its first words, as far as file names take them, and when it was made. */
export function titlePath(text: string, now: Date): string {
  const words = text
    .replace(/[^\p{L}\p{N}\p{M} -]+/gu, ' ')
    .trim()
    .replace(/\s+/g, ' ');
  const made = now.toISOString().replace(/[-:]/g, '').replace('T', '-').slice(0, 15);
  return `Titles/${[...words].slice(0, 40).join('').trim() || 'Title'} ${made}.png`;
}

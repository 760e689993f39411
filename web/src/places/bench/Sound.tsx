import { useQuery, type QueryClient } from '@tanstack/react-query';
import { MATCHED_RATE, samplesQuery } from '../../api/queries';
import { useDraw } from '../../draw/useDraw';

let context: AudioContext | undefined;

/** Plays a piece of a clip's sound. */
export async function hear(client: QueryClient, clip: number, from: number, seconds: number) {
  const values = await client.fetchQuery(samplesQuery(clip, from, seconds));
  if (values.length === 0) return;
  context ??= new AudioContext();
  await context.resume();
  const buffer = context.createBuffer(1, values.length, MATCHED_RATE);
  buffer.copyToChannel(values, 0);
  const node = context.createBufferSource();
  node.buffer = buffer;
  node.connect(context.destination);
  node.start();
}

type Props = {
  clip: number;
  /** Moment in the middle, seconds of the clip's own time. */
  at: number;
  /** Seconds shown. */
  span: number;
  /** Moments with a line: where, in which colour, with which word, and whether it stands before the line. */
  lines: { at: number; colour: 'ink' | 'accent' | 'check'; word: string; before?: boolean }[];
  label: string;
};

/** The sound around a moment, with lines at what was marked and proposed. */
export function Sound({ clip, at, span, lines, label }: Props) {
  // In steps, so that a frame's step asks for nothing new.
  const step = Math.max(0.25, span / 4);
  const from = Math.floor((at - span / 2) / step) * step;
  const { data, error } = useQuery(samplesQuery(clip, from, span + step));
  const canvas = useDraw(
    ({ pen, width, height, paint }) => {
      const x = (moment: number) => width / 2 + ((moment - at) / span) * width;
      if (data) {
        const loudest = data.reduce((most, value) => Math.max(most, Math.abs(value)), 0.02);
        pen.fillStyle = paint('ink');
        for (let pixel = 0; pixel < width; pixel++) {
          const begin = Math.round((at - span / 2 + (pixel / width) * span - from) * MATCHED_RATE);
          const end = Math.max(begin + 1, begin + Math.round((span / width) * MATCHED_RATE));
          let [low, high] = [0, 0];
          for (let i = Math.max(0, begin); i < Math.min(data.length, end); i++) {
            low = Math.min(low, data[i] ?? 0);
            high = Math.max(high, data[i] ?? 0);
          }
          const half = (height - 22) / 2;
          const top = 20 + half - (high / loudest) * half;
          pen.fillRect(pixel, top, 1, Math.max(1, ((high - low) / loudest) * half));
        }
      }
      pen.font = '11px "Atkinson Hyperlegible Mono", monospace';
      for (const line of lines) {
        const place = x(line.at);
        if (place < -80 || place > width) continue;
        pen.fillStyle = paint(line.colour);
        pen.fillRect(Math.round(place), 0, line.colour === 'accent' ? 2 : 1, height);
        // What was marked stands below, what is proposed above.
        pen.textAlign = line.before ? 'right' : 'left';
        pen.fillText(line.word, place + (line.before ? -4 : 4), line.colour === 'accent' ? height - 5 : 12);
      }
    },
    [data, at, span, from, lines],
  );
  return (
    <div className="relative h-full">
      <canvas ref={canvas} role="img" aria-label={label} className="h-full w-full" />
      {error && (
        <p className="absolute inset-x-4 top-5 text-fault">Its sound is not there: {error.message}</p>
      )}
    </div>
  );
}

import { useEffect, useRef, useState } from 'react';
import type { Day } from '../../api/day';
import type { GroupSummary } from '../../api/types';
import { linesOf, titlePath } from '../../model/title';
import { Ask } from '../../parts/Ask';
import { Button } from '../../parts/Button';
import { Choice } from '../../parts/Choice';
import { upload } from '../../api/upload';

type Props = {
  day: Day;
  summary: GroupSummary;
  /** Takes a clip in at the playhead; whether it is in. */
  onTake: (clip: number) => Promise<boolean>;
  onClose: () => void;
};

const GROUNDS = { dark: ['#0e1110', '#f8faf9'], light: ['#f8faf9', '#14211f'] } as const;
type Ground = keyof typeof GROUNDS;

/** Most of the width that text takes, and its height, as shares of the picture's height. */
const WIDE = 0.84;
const TALL = 0.09;

/** Draws a title as large as the canvas. */
function draw(canvas: HTMLCanvasElement, text: string, ground: Ground) {
  const pen = canvas.getContext('2d');
  if (!pen) return;
  const { width, height } = canvas;
  const [paper, ink] = GROUNDS[ground];
  pen.fillStyle = paper;
  pen.fillRect(0, 0, width, height);
  const size = TALL * height;
  pen.font = `600 ${size}px 'Atkinson Hyperlegible Next', system-ui, sans-serif`;
  pen.fillStyle = ink;
  pen.textAlign = 'center';
  pen.textBaseline = 'middle';
  const lines = linesOf(text, (line) => pen.measureText(line).width, WIDE * width);
  const first = height / 2 - ((lines.length - 1) * 1.3 * size) / 2;
  lines.forEach((line, i) => pen.fillText(line, width / 2, first + i * 1.3 * size, WIDE * width));
}

/** A title: text as a picture of the group's size, which becomes an angle from the playhead on. */
export function Title({ day, summary: { group }, onTake, onClose }: Props) {
  const [text, setText] = useState('');
  const [ground, setGround] = useState<Ground>('dark');
  const [trouble, setTrouble] = useState<string | null>(null);
  // What was sent and is not a clip of the day yet.
  const [coming, setComing] = useState<string | null>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const { width, height } = group;
  useEffect(() => {
    if (canvas.current) draw(canvas.current, text, ground);
  }, [text, ground, width, height]);
  const made = coming === null ? undefined : day.clips.find((clip) => clip.relative.endsWith(coming));
  const latest = useRef({ onTake, onClose });
  useEffect(() => {
    latest.current = { onTake, onClose };
  });
  const clip = made?.id;
  useEffect(() => {
    if (clip === undefined) return;
    void latest.current.onTake(clip).then((done) => {
      if (done) latest.current.onClose();
      else setComing(null);
    });
  }, [clip]);
  const take = async () => {
    const path = titlePath(text, new Date());
    try {
      const blob = await new Promise<Blob | null>((resolve) => {
        if (canvas.current) canvas.current.toBlob(resolve, 'image/png');
        else resolve(null);
      });
      if (!blob) throw new Error('This browser makes no picture of it.');
      setTrouble(null);
      setComing(path);
      const file = new File([blob], path.replace(/^.*\//, ''), { type: 'image/png' });
      await upload([{ path, file }], () => undefined, new AbortController().signal);
    } catch (error) {
      setComing(null);
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <Ask title={<>A title in {group.name}</>} onClose={onClose} width={720}>
      <div className="flex items-start gap-4 pt-3">
        <textarea
          data-autofocus
          aria-label="Text of the title"
          rows={4}
          maxLength={400}
          value={text}
          onChange={(event) => setText(event.target.value)}
          className="min-w-0 flex-1 resize-none rounded-[3px] border border-line bg-sheet px-2 py-1"
        />
        <Choice label="On" value={ground} onChange={(own) => setGround(own === 'light' ? 'light' : 'dark')}>
          <option value="dark">black</option>
          <option value="light">white</option>
        </Choice>
      </div>
      <canvas
        ref={canvas}
        width={width}
        height={height}
        role="img"
        aria-label="The title as it will be seen"
        className="mt-3 w-full border border-line"
      />
      <p role="status" className={`pt-2 ${trouble ? 'text-fault' : 'text-soft'}`}>
        {trouble ??
          (coming
            ? 'It is being taken in…'
            : `A picture of ${width}×${height}, kept with the production. It stands from the playhead to the end.`)}
      </p>
      <div className="flex justify-end gap-2 pt-3">
        <Button onClick={onClose}>Leave it</Button>
        <Button main disabled={!text.trim() || coming !== null} onClick={() => void take()}>
          Take it in at the playhead
        </Button>
      </div>
    </Ask>
  );
}

import { useMemo } from 'react';
import type { ClipView, SoundFileView, SourceReport } from '../../api/types';
import { bytes, clock } from '../../model/format';
import { aloneOf } from '../../model/pair';
import { Thumb } from '../../parts/Thumb';
import { Button } from '../../parts/Button';
import { ErrorAlong } from './ErrorAlong';
import { Listen } from './Listen';

/** What was chosen, where it is not what was proposed. */
const otherwise = ({ why, correction }: SourceReport) =>
  why.endsWith(correction) ? '' : ` (chosen: ${correction === 'recut' ? 're-cut' : correction})`;

/** Without a picture's own frames, those of 25 a second. */
const FRAME_S = 0.04;

type Props = {
  file: SoundFileView;
  /** The picture it lies along; none for a group. */
  clip: ClipView | undefined;
  /** Whether it is listened to. */
  listening: boolean;
  onListen: () => void;
  onWrite?: (() => void) | undefined;
};

/** What lies under one picture: its tracks, its sounds with what is done about each, where nobody ran. */
export function Under({ file: { report }, clip, listening, onListen, onWrite }: Props) {
  const own = useMemo(() => clip && aloneOf(clip), [clip]);
  const length = report.samples / report.sample_rate;
  return (
    <section
      aria-label="What lies under it"
      className="flex max-h-[52%] shrink-0 gap-5 overflow-y-auto border-t border-line bg-sheet px-4 py-2"
    >
      {clip && own && listening && <Listen key={clip.id} clip={clip} own={own} />}
      {clip && own && !listening && (
        <button
          type="button"
          aria-label="Play it with its sound"
          onClick={onListen}
          className="relative aspect-video w-[264px] shrink-0 self-start bg-band"
        >
          <Thumb clip={clip.id} as={clip} className="h-full w-full object-contain" />
          <span className="absolute bottom-2 left-2 rounded-[3px] bg-black/70 px-2 py-0.5 text-[#dce7e2]">
            Play it with its sound
          </span>
        </button>
      )}
      <div className="min-w-0 flex-1">
        <h3 className="num truncate font-semibold">{report.path}</h3>
        <p className="num text-[12px] text-soft">
          {clock(length, 2)} · {report.sample_rate / 1000} kHz · {report.bits} bit · {bytes(report.bytes)}
        </p>
        <ul className="pt-1">
          {report.sources.map((source) => (
            <li key={source.files.join()} className="pb-1">
              <span className="num">{source.files.join(' + ')}</span>
              <span className="text-soft">
                {' '}
                {source.device} · {source.why}
                {otherwise(source)}
              </span>
            </li>
          ))}
          {report.holes.map((hole) => (
            <li key={`${hole.device} ${hole.from_s}`} className="num text-check">
              {hole.device} did not run from {clock(hole.from_s, 2)} to {clock(hole.to_s, 2)}: silence
            </li>
          ))}
        </ul>
        {report.message && <p className="text-fault">{report.message}</p>}
        <div className="pt-1">
          <ErrorAlong sources={report.sources} length={length} frame={FRAME_S} />
        </div>
        {onWrite && (
          <div className="pt-2">
            <Button small onClick={onWrite}>
              Write this one
            </Button>
          </div>
        )}
      </div>
      {!listening && (
        <div className="w-[190px] shrink-0">
          <h3 className="font-semibold">Tracks</h3>
          <ol className="num text-[12px]">
            {report.tracks.map((track, i) => (
              <li key={track.name} className="flex gap-2">
                <span className="w-5 text-right text-soft">{i + 1}</span>
                <span className="truncate">{track.name}</span>
              </li>
            ))}
          </ol>
        </div>
      )}
    </section>
  );
}

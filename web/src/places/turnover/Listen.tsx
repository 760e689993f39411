import { useQuery } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { clipHeardQuery } from '../../api/queries';
import type { ClipView } from '../../api/types';
import { useKeys } from '../../keys/useKeys';
import { timecode } from '../../model/format';
import { only } from '../../model/onAir';
import type { aloneOf } from '../../model/pair';
import { Button } from '../../parts/Button';
import { TrackList } from '../../parts/TrackList';
import { useTracks } from '../../play/useTracks';
import { useThrough } from '../../play/useThrough';
import { useWall } from '../../play/useWall';
import { Wall } from '../../play/wall';
import { listenKeys } from './keys';

type Props = { clip: ClipView; own: NonNullable<ReturnType<typeof aloneOf>> };

/** A picture with the sound that is laid under it, as it will be written: played, one track alone or some together. */
export function Listen({ clip, own }: Props) {
  const { group } = own;
  const [wall] = useState(() => new Wall(own));
  useThrough(wall, group.angles);
  const heard = useQuery(clipHeardQuery(clip.id));
  useEffect(() => {
    wall.setOnAir(() => only(clip.id));
    wall.open();
    return () => wall.close();
  }, [wall, clip.id]);
  const tracks = useTracks(wall, heard.data, heard.data?.begins_s ?? 0);
  const playing = useWall(wall, (state) => state.playing);
  const frame = useWall(wall, (state) => state.frame);
  const trouble = useWall(wall, (state) => state.silent ?? Object.values(state.trouble)[0] ?? null);
  // It was asked for: it plays as soon as there is something to be heard.
  const begun = useRef(false);
  const isThere = heard.isSuccess || heard.isError;
  useEffect(() => {
    if (begun.current || !isThere) return;
    begun.current = true;
    void wall.play();
  }, [wall, isThere]);

  const last = group.frames - 1;
  const play = () => void (playing ? wall.pause() : wall.play());
  const from = (at: number) => {
    wall.seek(at);
    void wall.play();
  };
  /** About two seconds before the end, so that there is something to hear. */
  const tail = Math.max(0, last - Math.round((2 * group.start.rate.num) / group.start.rate.den));
  const keys = listenKeys({
    play,
    step: (by) => wall.seek(frame + by),
    head: () => from(0),
    middle: () => from(Math.floor(last / 2)),
    tail: () => from(tail),
    alone: tracks.alone,
    next: tracks.next,
    together: tracks.together,
  });
  useKeys(keys);
  return (
    <>
      <div className="w-[264px] shrink-0">
        <canvas
          ref={(canvas) => wall.setLarge(canvas)}
          width={528}
          height={297}
          data-testid="listened"
          className="dark-pictures aspect-video w-full bg-black"
          aria-label={`${clip.file_name} as its sound will be written`}
          role="img"
        />
        <div className="flex items-center gap-1.5 pt-1.5">
          <Button small onClick={play}>
            {playing ? 'Stand still' : 'Play'}
          </Button>
          <span className="num flex-1 text-[12px]">
            {timecode({ ...group.start, frames: group.start.frames + frame })}
          </span>
          {(
            [
              ['head', 0],
              ['middle', Math.floor(last / 2)],
              ['tail', tail],
            ] as const
          ).map(([word, at]) => (
            <button key={word} type="button" className="text-[12px] underline" onClick={() => from(at)}>
              {word}
            </button>
          ))}
        </div>
        <p role="status" className={`text-[12px] ${trouble || heard.isError ? 'text-fault' : 'text-soft'}`}>
          {heard.error?.message ?? trouble ?? `Heard: ${tracks.said}`}
        </p>
      </div>
      <div className="order-last w-[210px] shrink-0">
        <h3 className="font-semibold">Tracks</h3>
        <TrackList tracks={tracks} />
      </div>
    </>
  );
}

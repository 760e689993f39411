import { useCallback } from 'react';
import type { ClipView } from '../../api/types';
import type { Wall } from '../../play/wall';
import { hasPicture } from './usePair';

/** The picture of one of the two at the playhead. */
export function Picture({ wall, clip, label }: { wall: Wall; clip: ClipView; label: string }) {
  const canvas = useCallback(
    (element: HTMLCanvasElement | null) => {
      wall.setSmall(clip.id, element);
      wall.draw();
    },
    [wall, clip.id],
  );
  const { picture } = clip.facts;
  const width = Math.min(picture?.width ?? 0, 640);
  return (
    <figure className="relative flex min-w-0 flex-1 items-center justify-center overflow-hidden">
      {picture && hasPicture(clip) ? (
        <canvas
          ref={canvas}
          role="img"
          aria-label={`Picture of ${label}`}
          width={width}
          height={Math.round((width * picture.height) / picture.width)}
          className="max-h-full max-w-full"
        />
      ) : (
        <p className="px-4">No picture</p>
      )}
      <figcaption className="num absolute bottom-1 left-2 bg-[#0e1110]/80 px-1 text-[12px]">
        {label}
      </figcaption>
    </figure>
  );
}

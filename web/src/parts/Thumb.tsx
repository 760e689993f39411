import { useEffect, useRef, type SyntheticEvent } from 'react';
import type { Angle } from '../api/types';
import { throughOf } from '../model/lut';
import { useDevices, useLuts } from '../play/useThrough';

type Props = {
  clip: number;
  /** Whose pictures it is seen as. */
  as: Pick<Angle, 'device'> & Partial<Pick<Angle, 'through'>>;
  alt?: string;
  className?: string;
};

/** A small picture of a clip, as its pictures are seen. */
export function Thumb({ clip, as, alt = '', className = '' }: Props) {
  const through = throughOf(useDevices() ?? [], as);
  const path = `/api/clips/${clip}/thumbnail.jpg`;
  const canvas = useRef<HTMLCanvasElement>(null);
  const lut = useLuts(through === null ? [] : [through]).get(through ?? '');
  useEffect(() => {
    const box = canvas.current;
    if (!lut || !box) return;
    const image = new Image();
    let gone = false;
    image.onload = () => {
      const context = box.getContext('2d', { willReadFrequently: true });
      if (gone || !context || image.width === 0) return;
      [box.width, box.height] = [image.width, image.height];
      context.drawImage(image, 0, 0);
      const pixels = context.getImageData(0, 0, box.width, box.height);
      lut.apply(pixels.data, false);
      context.putImageData(pixels, 0, 0);
    };
    image.src = path;
    return () => {
      gone = true;
    };
  }, [lut, path]);
  // One that is not made yet is no picture, and no sign of a broken one either.
  const hide = ({ currentTarget }: SyntheticEvent) => currentTarget.classList.add('invisible');
  const show = ({ currentTarget }: SyntheticEvent) => currentTarget.classList.remove('invisible');
  if (!lut)
    return <img src={path} alt={alt} draggable={false} className={className} onError={hide} onLoad={show} />;
  return <canvas ref={canvas} role="img" aria-label={alt} aria-hidden={alt === ''} className={className} />;
}

import { useQueries, type UseQueryResult } from '@tanstack/react-query';
import { useMemo } from 'react';
import { MATCHED_RATE, peaksBetweenQuery, samplesQuery } from '../../api/queries';
import type { ClipView, PeaksView } from '../../api/types';
import type { Paint } from '../../draw/colours';
import { audible } from '../../model/names';
import { pieces, type Heard, type Window } from '../../model/mirror';

/** A clip in the mirror: where it is heard, which of its channels is looked at, and in which colour it is drawn. */
export type Half = {
  clip: ClipView;
  heard: Heard;
  /** One channel, from 0; null shows what is heard of all. */
  channel: number | null;
  colour: Parameters<Paint>[0];
  name: string;
};

const NONE = { clip: null, heard: null, channel: null };

/** Below this window samples are drawn, seconds. */
const NEAR_S = 6;

/** Lowest and highest between two moments of a clip's own time, −1 to 1; nothing where there is none. */
type Read = (from: number, to: number) => [low: number, high: number] | null;

/** What is drawn of a clip in a window, and the loudest of it. */
export type Sound = { sound: Read; loudest: number };

/** What came of queries, in their order. */
const peaksOf = (results: UseQueryResult<PeaksView>[]) => results.map(({ data }) => data);
const samplesOf = (results: UseQueryResult<Float32Array<ArrayBuffer>>[]) => results.map(({ data }) => data);

/** What is drawn of a half in a window: from peaks far out, from samples near. */
export function useSound(half: Half | null, window: Window): Sound {
  const near = window.to - window.from < NEAR_S;
  const { clip, heard, channel } = half ?? NONE;
  const duration = clip?.facts.duration_s ?? 0;
  const wanted = useMemo(() => (heard ? pieces(heard, window, duration) : []), [heard, window, duration]);
  const peaks = useQueries({
    queries: near || !clip ? [] : wanted.map(({ from, to }) => peaksBetweenQuery(clip, from, to, 2000)),
    combine: peaksOf,
  });
  const samples = useQueries({
    queries:
      near && clip ? wanted.map(({ from, to }) => samplesQuery(clip.id, from, to - from, channel)) : [],
    combine: samplesOf,
  });
  return useMemo(() => {
    const found: { from: number; to: number; read: (bin: number) => [number, number]; bins: number }[] = [];
    let loudest = 0.01;
    wanted.forEach(({ from }, i) => {
      const [peak, sample] = [peaks[i], samples[i]];
      if (peak) {
        const only = channel === null ? undefined : peak.channels[channel];
        const shown = only ? [only] : clip ? audible(clip, peak.channels) : [];
        const bins = (shown[0]?.length ?? 0) / 3;
        const read = (bin: number): [number, number] => [
          Math.min(...shown.map((one) => one[3 * bin] ?? 0)) / 32_768,
          Math.max(...shown.map((one) => one[3 * bin + 1] ?? 0)) / 32_768,
        ];
        for (let bin = 0; bin < bins; bin += 4) {
          const [low, high] = read(bin);
          loudest = Math.max(loudest, high, -low);
        }
        found.push({ from: peak.from_s, to: peak.to_s, read, bins });
      }
      if (sample && sample.length > 0) {
        for (let at = 0; at < sample.length; at += 3) loudest = Math.max(loudest, Math.abs(sample[at] ?? 0));
        found.push({
          from,
          to: from + sample.length / MATCHED_RATE,
          bins: sample.length,
          read: (bin) => [sample[bin] ?? 0, sample[bin] ?? 0],
        });
      }
    });
    const sound: Read = (from, to) => {
      const piece = found.find((one) => from >= one.from - 1e-9 && from < one.to);
      if (!piece || piece.bins === 0) return null;
      const bin = (moment: number) => ((moment - piece.from) / (piece.to - piece.from)) * piece.bins;
      const [first, last] = [Math.floor(bin(from)), Math.max(Math.ceil(bin(to)), Math.floor(bin(from)) + 1)];
      let [low, high] = [1, -1];
      for (let i = first; i < Math.min(last, piece.bins); i++) {
        const [least, most] = piece.read(i);
        low = Math.min(low, least);
        high = Math.max(high, most);
      }
      return low > high ? null : [low, high];
    };
    return { sound, loudest };
  }, [clip, channel, wanted, peaks, samples]);
}

/** Two clips to be laid against each other: which, and as angles on one clock. */
import type { Day } from '../api/day';
import type { Angle, ClipView, FrameRate, Placement, Timecode } from '../api/types';
import { end } from './axis';

/** The rate of what has no picture. */
const PLAIN: FrameRate = { num: 25, den: 1 };

/** Frames are counted at a clip's own rate. */
export const rateOf = (...clips: ClipView[]): FrameRate =>
  clips.find((clip) => clip.facts.picture)?.facts.picture?.rate ?? PLAIN;

export const frameOf = ({ num, den }: FrameRate) => den / num;

/** The place of a clip; what has none lies at a moment, all of it in one piece. */
export function placeOf(day: Day, clip: ClipView, from: number): Placement {
  const placed = day.placements.find((one) => one.clip === clip.id)?.placement;
  if (placed && placed.stretches.length > 0) return placed;
  const stretch = {
    clip_start_s: 0,
    clip_end_s: clip.facts.duration_s,
    start_s: from,
    rate_ppm: 0,
    start_sigma_s: 0,
    rate_sigma_ppm: 0,
  };
  const bare: Placement = {
    verdict: 'unplaced',
    confidence: 0,
    component: 0,
    stretches: [],
    evidence: [],
    alternatives: [],
    covered: null,
    travel_s: 0,
    residuals: [],
    reasons: [],
  };
  return { ...(placed ?? bare), stretches: [stretch] };
}

/** What a clip is laid against where nobody chose: what its sound was found in, else what ran most of its time with it. */
export function partnerOf(day: Day, clip: ClipView): ClipView | undefined {
  const byId = new Map(day.clips.map((one) => [one.id, one]));
  const placed = day.placements.find((one) => one.clip === clip.id)?.placement;
  const heardIn = placed?.evidence.find((one) => one.used && one.against !== null && one.kind === 'waveform');
  const named = heardIn?.against == null ? undefined : byId.get(heardIn.against);
  if (named && named.id !== clip.id) return named;
  const others = partners(day, clip);
  return others.find((one) => one.device === day.pass?.reference) ?? others[0];
}

/** Clips that one can be laid against: those with sound that have a place, what ran with it first. */
export function partners(day: Day, clip: ClipView): ClipView[] {
  const places = new Map(day.placements.map((one) => [one.clip, one.placement]));
  const own = places.get(clip.id)?.stretches ?? [];
  const shared = (other: ClipView) => {
    const theirs = places.get(other.id)?.stretches ?? [];
    return own.reduce(
      (sum, a) =>
        sum +
        theirs.reduce(
          (all, b) => all + Math.max(0, Math.min(end(a), end(b)) - Math.max(a.start_s, b.start_s)),
          0,
        ),
      0,
    );
  };
  return day.clips
    .filter((one) => one.id !== clip.id && one.facts.sound && (places.get(one.id)?.stretches.length ?? 0) > 0)
    .map((one) => [one, shared(one)] as const)
    .sort((a, b) => b[1] - a[1])
    .map(([one]) => one);
}

/** A clip as an angle of its own: where it runs on frames counted from `from` on; `later` moves it. */
export function angleOf(
  clip: ClipView,
  place: Pick<Placement, 'stretches'>,
  from: number,
  rate: FrameRate,
  later: number,
): Angle {
  const frame = frameOf(rate);
  const { picture, sound } = clip.facts;
  return {
    id: clip.id,
    device: clip.device,
    name: null,
    hidden: false,
    parts: place.stretches.map((own) => {
      const stretch = { ...own, start_s: own.start_s + later };
      return {
        clip: clip.id,
        from_frame: Math.ceil((stretch.start_s - from) / frame - 0.5),
        to_frame: Math.ceil((end(stretch) - from) / frame - 0.5),
        stretch,
        picture_delay_s: picture && sound ? picture.start_s - sound.start_s : 0,
        rate: picture?.rate ?? PLAIN,
      };
    }),
  };
}

/** A clip alone, on its own clock and its own timecode, from its first picture on; `null` where it has none. */
export function aloneOf(clip: ClipView) {
  const { picture, sound, timecode, duration_s } = clip.facts;
  if (!picture) return null;
  const from = sound ? picture.start_s - sound.start_s : 0;
  const whole = {
    clip_start_s: Math.min(0, from),
    clip_end_s: Math.max(duration_s, from + picture.duration_s),
    start_s: Math.min(0, from),
    rate_ppm: 0,
    start_sigma_s: 0,
    rate_sigma_ppm: 0,
  };
  return {
    axis_start_s: from,
    group: {
      start: timecode ?? clockOf(picture.rate),
      frames: picture.frames ?? Math.round(picture.duration_s / frameOf(picture.rate)),
      angles: [angleOf(clip, { stretches: [whole] }, from, picture.rate, 0)],
      sound: null,
    },
  };
}

/** The clock of a window of the axis, for showing both. */
export const clockOf = (rate: FrameRate): Timecode => ({ frames: 0, rate, drop: false });

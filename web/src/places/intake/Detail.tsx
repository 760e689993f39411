import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useCommands } from '../../api/commands';
import { clipQuery, peaksQuery } from '../../api/queries';
import { useJobs, type Day } from '../../api/day';
import type { ChannelState, ClipView } from '../../api/types';
import { bytes, length, rate, signed, timecode } from '../../model/format';
import { Thumb } from '../../parts/Thumb';
import { hue } from '../../parts/Stamp';
import { SoundUnder } from '../../parts/SoundUnder';
import { Waves } from '../../draw/Waves';

/** One clip: picture, waveform of every channel, and what its file says. */
export function Detail({ day, clip }: { day: Day; clip: ClipView | undefined }) {
  const failed = useFailure(clip);
  if (!clip) {
    return (
      <section aria-label="Clip" className="h-[196px] shrink-0 border-t border-line px-4 py-3 text-soft">
        Choose a clip to see its channels and what its file says.
      </section>
    );
  }
  return (
    <section aria-label={`Clip ${clip.file_name}`} className="flex h-[196px] shrink-0 border-t border-line">
      {clip.facts.picture && (
        <div className="flex w-[196px] shrink-0 items-center bg-[#0e1110]">
          {clip.proxy ? (
            <Thumb clip={clip.id} as={clip} alt={`A frame of ${clip.file_name}`} className="w-full" />
          ) : (
            <span className="px-3 text-[#dce7e2]">its picture is being made</span>
          )}
        </div>
      )}
      <Channels key={clip.id} clip={clip} colour={hue(day.devices, clip.device)} />
      <Facts clip={clip} failed={failed} />
    </section>
  );
}

/** What the timecode on a channel says. */
function counted({ first, share, jumps, date }: NonNullable<ChannelState['audio_timecode']>): string {
  const dated = date?.map((part) => String(part).padStart(2, '0')).join('-');
  const parts = [
    `from ${timecode(first)}`,
    share < 0.995 && `${Math.floor(share * 100)} % of the clip`,
    jumps > 0 && (jumps === 1 ? 'jumps once' : `jumps ${jumps} times`),
    dated && `20${dated}`,
  ];
  return parts.filter(Boolean).join(' · ');
}

/** What a channel carries that is not matched. */
const IDLE: Record<Exclude<ChannelState['carries'], 'sound' | 'timecode'>, string> = {
  nothing: 'digital silence',
  hum: 'hum',
  tone: 'steady tone',
  noise: 'steady noise',
};

function level({ carries, audio_timecode, peak_dbfs, rms_dbfs, clipped, late_s }: ChannelState): string {
  if (audio_timecode) return `audio timecode ${rate(audio_timecode.first.rate)} fps`;
  if (carries === 'nothing') return IDLE.nothing;
  const parts = [
    carries !== 'sound' && carries !== 'timecode' && IDLE[carries],
    late_s !== null && late_s >= 0.0015 && `${(late_s * 1000).toFixed(1)} ms late`,
    `peak ${signed(peak_dbfs, 1)}`,
    `level ${signed(rms_dbfs, 1)} dBFS`,
  ];
  const peaks = parts.filter(Boolean).join(' · ');
  return clipped > 0 ? `${peaks} · ${clipped} samples clipped` : peaks;
}

function Channels({ clip, colour }: { clip: ClipView; colour: string }) {
  const [tall, setTall] = useState(false);
  const peaks = useQuery(peaksQuery(clip, 640));
  if (!clip.facts.sound) return <p className="flex-1 px-4 py-3 text-soft">It has no sound.</p>;
  if (!clip.channels) {
    return (
      <p className="flex-1 px-4 py-3 text-soft">It is being listened to; its waveform comes by itself.</p>
    );
  }
  const names = clip.facts.sound.channel_names;
  return (
    <div className="flex min-w-0 flex-1 flex-col px-4 py-2">
      <div className="flex items-center pb-1">
        <h2 className="flex-1 font-semibold">Channels</h2>
        <button
          type="button"
          aria-pressed={tall}
          className="text-soft underline"
          onClick={() => setTall(!tall)}
        >
          {tall ? 'true height' : 'taller'}
        </button>
      </div>
      <ul className="min-h-0 flex-1 overflow-y-auto" tabIndex={0} aria-label="Channels">
        {clip.channels.map((state, i) => (
          <li
            key={i}
            className={`flex flex-col border-t border-line ${state.audio_timecode ? '' : 'h-[46px]'}`}
          >
            <div className="flex gap-2 text-[12px]">
              <span className="num">{i + 1}</span>
              <span className="truncate">{names[i] ?? ''}</span>
              <span className="num flex-1 truncate text-right text-soft">{level(state)}</span>
            </div>
            {state.audio_timecode && (
              <p className="num text-[12px] text-soft">{counted(state.audio_timecode)}</p>
            )}
            <div
              className={state.audio_timecode ? 'h-6' : 'min-h-0 flex-1'}
              style={{ color: state.carries !== 'sound' ? 'var(--soft)' : colour }}
            >
              <Waves
                peaks={peaks.data?.channels[i] ?? []}
                tall={tall}
                label={`Waveform of channel ${i + 1} of ${clip.file_name}`}
              />
            </div>
          </li>
        ))}
      </ul>
    </div>
  );
}

/** Why something could not be made of a clip. */
function useFailure(clip: ClipView | undefined): string | undefined {
  const jobs = useJobs().flatMap((job) => job.clips);
  return jobs.find((job) => job.clip === clip?.id && job.failed)?.failed ?? undefined;
}

function Facts({ clip, failed }: { clip: ClipView; failed: string | undefined }) {
  const { again } = useCommands();
  const detail = useQuery(clipQuery(clip));
  const { picture, sound } = clip.facts;
  const known: [string, string][] = [
    ['file', clip.relative],
    ['size', bytes(clip.bytes)],
    ['length', length(clip.facts.duration_s)],
  ];
  if (picture && !picture.still) {
    const frames = clip.timing ? ` · ${clip.timing.frames} frames` : '';
    known.push(['picture', `${picture.codec} · ${rate(picture.rate)} fps${frames}`]);
  }
  if (sound) {
    const streams = sound.streams.length > 1 ? ` · ${sound.streams.length} streams` : '';
    known.push(['sound', `${sound.codec} · ${sound.rate} Hz · ${sound.channels} ch${streams}`]);
  }
  if (picture && sound && picture.start_s !== sound.start_s) {
    known.push(['picture after sound', `${signed((picture.start_s - sound.start_s) * 1000, 2)} ms`]);
  }
  if (clip.facts.created)
    known.push(['created', clip.facts.created.replace('T', ' ').replace(/\.0+Z?$|Z$/, '')]);
  if (clip.facts.time_reference !== null)
    known.push(['time reference', `${clip.facts.time_reference} samples`]);
  if (clip.scene || clip.take) {
    const from = { hand: 'by hand', log: 'slate log', file: 'iXML' }[clip.slate_source ?? 'file'];
    known.push(['slate', `${clip.scene ?? '–'} / ${clip.take ?? '–'} (${from})`]);
  }
  const tags = Object.entries(detail.data?.tags ?? {});
  return (
    <div
      className="w-[330px] shrink-0 overflow-y-auto border-l border-line px-4 py-2"
      tabIndex={0}
      role="group"
      aria-label="What the file says"
    >
      {failed && (
        <p className="pb-1 text-[12px] wrap-anywhere text-fault">
          {failed}{' '}
          <button type="button" className="underline" onClick={() => void again(clip.id)}>
            try again
          </button>
        </p>
      )}
      <div className="-mt-2 pb-1 empty:hidden">
        <SoundUnder clip={clip} />
      </div>
      <dl className="text-[12px]">
        {[...known, ...tags].map(([name, value], i) => (
          <div
            key={name + i}
            className={`flex gap-2 ${i === known.length ? 'mt-1 border-t border-line pt-1' : ''}`}
          >
            <dt className="w-[104px] shrink-0 truncate text-soft" title={name}>
              {name}
            </dt>
            <dd className="num min-w-0 flex-1 wrap-anywhere">{value}</dd>
          </div>
        ))}
      </dl>
    </div>
  );
}

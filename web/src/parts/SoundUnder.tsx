import { useQuery } from '@tanstack/react-query';
import { Link } from 'wouter';
import { soundQuery } from '../api/queries';
import type { ClipView, MadeReport } from '../api/types';
import { length } from '../model/format';

/** Which sound lies under a picture: its files, how many tracks, where there is none. */
export function SoundUnder({ clip }: { clip: ClipView }) {
  const sound = useQuery(soundQuery).data;
  if (!sound || !clip.facts.picture || clip.facts.picture.still) return null;
  const report = sound.clips.find((file) => file.clip === clip.id)?.report;
  const without = sound.without.find(({ path }) => path === clip.relative);
  if (!report)
    return without ? <p className="border-t border-line py-2 text-soft">No sound: {without.why}.</p> : null;
  return (
    <div className="border-t border-line py-2" data-testid="sound-under">
      <SoundLaid report={report} />
    </div>
  );
}

/** What lies in a file of sound that is to be made: its tracks, what is done about each clock, where nobody ran. */
export function SoundLaid({ report }: { report: MadeReport }) {
  const files = report.sources.flatMap((source) => source.files.map((path) => path.split('/').at(-1)));
  return (
    <>
      <p>
        <span className="font-semibold">{report.tracks.length} tracks</span> from{' '}
        <span className="num">{files.join(', ')}</span>
      </p>
      {report.sources.map((source) => (
        <p key={source.files.join()} className="text-[12px] text-soft">
          {source.why}
        </p>
      ))}
      {report.holes.map((hole) => (
        <p key={`${hole.device} ${hole.from_s}`} className="text-[12px] text-check">
          {hole.device} did not run from <span className="num">{length(hole.from_s)}</span> to{' '}
          <span className="num">{length(hole.to_s)}</span>
        </p>
      ))}
      <Link href="/turnover/sound" className="text-accent underline">
        Sound onto pictures
      </Link>
    </>
  );
}

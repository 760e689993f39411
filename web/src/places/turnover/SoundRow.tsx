import type { MadeState, SoundFileView } from '../../api/types';
import { clock } from '../../model/format';
import { Name } from '../../parts/Name';

/** Columns of the list. */
export const SOUND_GRID =
  'grid-cols-[minmax(120px,1.4fr)_92px_64px_minmax(110px,1.2fr)_minmax(150px,2fr)_84px]';

const STATES: Record<MadeState, [word: string, look: string]> = {
  planned: ['', ''],
  written: ['written', 'text-accent'],
  there: ['written', 'text-accent'],
  failed: ['not written', 'text-fault'],
};

const WORDS = { resample: 'resampled', recut: 're-cut', leave: 'left as it ran' };

/** One file of sound in the list. */
export function SoundRow({ file: { report } }: { file: SoundFileView }) {
  const [state, look] = STATES[report.state];
  const files = report.sources.flatMap((source) => source.files);
  const first = report.sources[0];
  const ways = new Set(report.sources.map((source) => source.correction));
  const pace = first && `${first.rate_ppm > 0 ? '+' : ''}${first.rate_ppm.toFixed(1)} ppm`;
  const gaps = report.holes.length;
  return (
    <>
      <span role="gridcell" className="min-w-0 font-semibold">
        <Name text={report.belongs_to.split('/').at(-1) ?? ''} />
      </span>
      <span role="gridcell" className="num">
        {report.timecode ?? (
          <span className="text-soft" title="time of day: it has no timecode of its own">
            {clock(report.time_reference / report.sample_rate)}
          </span>
        )}
      </span>
      <span role="gridcell" className="num">
        {report.tracks.length}
      </span>
      <span role="gridcell" className="num min-w-0 truncate" title={files.join(', ')}>
        {files
          .slice(0, 2)
          .map((path) => path.split('/').at(-1))
          .join(', ')}
        {files.length > 2 && ` and ${files.length - 2} more`}
      </span>
      <span role="gridcell" className="min-w-0 truncate">
        <span className="num">{pace}</span>{' '}
        <span className="text-soft">{[...ways].map((way) => WORDS[way]).join(', ')}</span>
        {gaps > 0 && <span className="text-check"> · {gaps === 1 ? 'a gap' : `${gaps} gaps`}</span>}
      </span>
      <span role="gridcell" className={`whitespace-nowrap ${look}`}>
        {state}
      </span>
    </>
  );
}

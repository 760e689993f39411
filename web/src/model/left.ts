/** How long jobs will take yet, by how fast they went lately. */
import type { JobSummary } from '../api/types';

/** How far a job was at a moment, milliseconds. */
type Mark = { at: number; done: number };

/** How far the jobs were of late, by kind. */
export type Course = Readonly<Partial<Record<JobSummary['kind'], readonly Mark[]>>>;

/** What was longer ago says nothing of how fast it goes, milliseconds. */
const LATELY = 30_000;
/** Sooner nothing is foretold. */
const KNOWN = 3000;

/** The course with what is told now; of jobs that began anew or ended, from now on. */
export function further(course: Course, jobs: readonly JobSummary[], at: number): Course {
  return Object.fromEntries(
    jobs
      .filter(({ open }) => open > 0)
      .map(({ kind, done }) => {
        const before = course[kind] ?? [];
        const goesOn = (before.at(-1)?.done ?? 0) <= done;
        const kept = goesOn ? before.filter((mark) => at - mark.at < LATELY) : [];
        return [kind, [...kept, { at, done }]];
      }),
  );
}

/** Seconds until a job has ended; null where that cannot be foretold. */
export function secondsLeft(course: Course, { kind, done, total }: JobSummary): number | null {
  const marks = course[kind] ?? [];
  const [first, last] = [marks[0], marks.at(-1)];
  if (!first || !last || last.at - first.at < KNOWN || last.done <= first.done) return null;
  return ((total - done) * (last.at - first.at)) / (last.done - first.done) / 1000;
}

/** The same in words, no more exact than it is known. */
export function leftSaid(seconds: number | null): string {
  if (seconds === null) return '';
  if (seconds < 10) return 'a few s left';
  if (seconds < 55) return `${10 * Math.ceil(seconds / 10)} s left`;
  const minutes = Math.ceil(seconds / 60);
  return minutes < 60 ? `${minutes} min left` : `${Math.floor(minutes / 60)} h ${minutes % 60} min left`;
}

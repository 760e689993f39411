/** The day as the places show it: its files and the pass that is shown, asked for apart. */
import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { dayQuery, jobsQuery, passQuery } from './queries';
import type { DayView, JobSummary, ShownPass, SomeClips } from './types';

/** Files, choices and remarks, and where the pass that is shown puts them. */
export type Day = DayView & ShownPass;

/** The day once both parts of it are there; asks again for what failed. */
export function useDay() {
  const [files, pass] = [useQuery(dayQuery), useQuery(passQuery)];
  const day = useMemo<Day | undefined>(
    () => files.data && pass.data && { ...files.data, ...pass.data },
    [files.data, pass.data],
  );
  return {
    day,
    error: files.error ?? pass.error,
    again: () => {
      void files.refetch();
      void pass.refetch();
    },
  };
}

/** What the server is at. */
export const useJobs = (): JobSummary[] => useQuery(jobsQuery).data ?? [];

/** The day with some of its clips as they are now. */
export function withClips(day: DayView, { clips, health, notes }: SomeClips): DayView {
  const now = new Map(clips.map((clip) => [clip.id, clip]));
  return { ...day, clips: day.clips.map((clip) => now.get(clip.id) ?? clip), health, notes };
}

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef } from 'react';
import { get } from './client';
import type { ArrivingClip, DayView, Event, GroupView } from './types';

/** The day as the server shows it. */
export function useDay() {
  return useQuery({ queryKey: ['day'], queryFn: () => get<DayView>('/day') });
}

/** A group with its line. */
export function useGroup(id: number | undefined) {
  return useQuery({
    queryKey: ['group', id],
    queryFn: () => get<GroupView>(`/groups/${id}`),
    enabled: id !== undefined,
  });
}

/** Waveform levels, 0 to 127. */
export function useLevels(path: string, enabled: boolean) {
  return useQuery({ queryKey: ['levels', path], queryFn: () => get<number[]>(path), enabled });
}

/** First places that the running pass found, in the order in which it did. */
export function useArriving(): ArrivingClip[] {
  const client = useQueryClient();
  const empty = () => client.getQueryData<ArrivingClip[]>(['arriving']) ?? [];
  return useQuery({ queryKey: ['arriving'], queryFn: empty, staleTime: Infinity }).data ?? [];
}

/** Keeps what is shown in step with the server, also when another page changes it. */
export function useEvents(say: (text: string) => void) {
  const client = useQueryClient();
  // The stream stays open when another place is shown.
  const latest = useRef(say);
  useEffect(() => {
    latest.current = say;
  });
  useEffect(() => {
    const source = new EventSource('/api/events');
    let pending: number | undefined;
    const refetch = () => {
      pending ??= window.setTimeout(() => {
        pending = undefined;
        void client.invalidateQueries({ queryKey: ['day'] });
        void client.invalidateQueries({ queryKey: ['group'] });
        void client.invalidateQueries({ queryKey: ['levels'], type: 'inactive' });
      }, 250);
    };
    source.onopen = refetch;
    source.onmessage = (message) => {
      const event = JSON.parse(message.data as string) as Event;
      if (event.event === 'day') refetch();
      if (event.event === 'said') latest.current(event.text);
      if (event.event === 'arriving') {
        client.setQueryData<ArrivingClip[]>(['arriving'], (known) => [...(known ?? []), ...event.clips]);
      }
      if (event.event === 'jobs') {
        // What a pass found so far is of no use before it begins and after it ends.
        const running = event.jobs.some((job) => job.kind === 'pass' && job.open > 0);
        if (!running) client.setQueryData<ArrivingClip[]>(['arriving'], []);
        client.setQueryData<DayView>(['day'], (day) => day && { ...day, jobs: event.jobs });
      }
      if (event.event === 'line') {
        const known = client.getQueryData<GroupView>(['group', event.group]);
        if (known && known.version < event.version) {
          void client.invalidateQueries({ queryKey: ['group', event.group] });
        }
      }
    };
    return () => {
      source.close();
      window.clearTimeout(pending);
    };
  }, [client]);
}

import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef } from 'react';
import { arrivingQuery, dayQuery, groupQuery, keys } from './queries';
import type { Event } from './types';

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
        void client.invalidateQueries({ queryKey: keys.day });
        void client.invalidateQueries({ queryKey: keys.groups });
        void client.invalidateQueries({ queryKey: keys.levels, type: 'inactive' });
      }, 250);
    };
    source.onopen = refetch;
    source.onmessage = (message) => {
      const event = JSON.parse(message.data as string) as Event;
      if (event.event === 'day') refetch();
      if (event.event === 'said') latest.current(event.text);
      if (event.event === 'arriving') {
        client.setQueryData(arrivingQuery.queryKey, (known) => [...(known ?? []), ...event.clips]);
      }
      if (event.event === 'jobs') {
        // What a pass found so far is of no use before it begins and after it ends.
        const running = event.jobs.some((job) => job.kind === 'pass' && job.open > 0);
        if (!running) client.setQueryData(arrivingQuery.queryKey, []);
        client.setQueryData(dayQuery.queryKey, (day) => day && { ...day, jobs: event.jobs });
      }
      if (event.event === 'line') {
        const known = client.getQueryData(groupQuery(event.group).queryKey);
        if (known && known.version < event.version) {
          void client.invalidateQueries({ queryKey: keys.group(event.group) });
        }
      }
    };
    return () => {
      source.close();
      window.clearTimeout(pending);
    };
  }, [client]);
}

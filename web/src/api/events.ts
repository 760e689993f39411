import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef } from 'react';
import { withClips } from './day';
import {
  arrivingQuery,
  courseQuery,
  dayQuery,
  filmsQuery,
  assemblyQuery,
  groupQuery,
  jobsQuery,
  keys,
  someClips,
} from './queries';
import { withFilm } from '../model/films';
import { further } from '../model/left';
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
    let source: EventSource | undefined;
    let pending: number | undefined;
    const stale = new Set<'day' | 'pass' | 'jobs' | 'sound'>();
    const clips = new Set<number>();
    // What comes close together is asked for once.
    const soon = () => {
      pending ??= window.setTimeout(() => {
        pending = undefined;
        const ids = [...clips];
        if (stale.has('day')) void client.invalidateQueries({ queryKey: keys.day });
        else if (ids.length > 0) {
          void someClips(ids)
            .then((some) => client.setQueryData(dayQuery.queryKey, (day) => day && withClips(day, some)))
            .catch(() => client.invalidateQueries({ queryKey: keys.day }));
        }
        if (stale.has('pass')) {
          void client.invalidateQueries({ queryKey: keys.pass });
          void client.invalidateQueries({ queryKey: keys.groups });
          void client.invalidateQueries({ queryKey: keys.anyAssembly });
        }
        // What lies under a picture follows from where everything lies.
        if (stale.size > 0 && !(stale.size === 1 && stale.has('jobs'))) {
          void client.invalidateQueries({ queryKey: keys.sound });
        }
        if (stale.has('jobs')) void client.invalidateQueries({ queryKey: keys.jobs });
        void client.invalidateQueries({ queryKey: keys.levels, type: 'inactive' });
        stale.clear();
        clips.clear();
      }, 250);
    };
    const refetch = (...parts: ('day' | 'pass' | 'jobs' | 'sound')[]) => {
      parts.forEach((part) => stale.add(part));
      soon();
    };
    const told = (message: MessageEvent) => {
      const event = JSON.parse(message.data as string) as Event;
      if (event.event === 'day') refetch('day', 'pass');
      if (event.event === 'pass') refetch('pass');
      if (event.event === 'sound') refetch('sound');
      if (event.event === 'films') void client.invalidateQueries({ queryKey: keys.films });
      if (event.event === 'filming') {
        client.setQueryData(filmsQuery.queryKey, (known) => known && withFilm(known, event));
      }
      if (event.event === 'clips') {
        event.clips.forEach((clip) => clips.add(clip));
        soon();
      }
      if (event.event === 'said') latest.current(event.text);
      if (event.event === 'arriving') {
        client.setQueryData(arrivingQuery.queryKey, (known) => [...(known ?? []), ...event.clips]);
      }
      if (event.event === 'jobs') {
        // What a pass found so far is of no use before it begins and after it ends.
        const running = event.jobs.some((job) => job.kind === 'pass' && job.open > 0);
        if (!running) client.setQueryData(arrivingQuery.queryKey, []);
        client.setQueryData(jobsQuery.queryKey, event.jobs);
        const now = performance.now();
        client.setQueryData(courseQuery.queryKey, (known) => further(known ?? {}, event.jobs, now));
      }
      if (event.event === 'assembly') {
        const known = client.getQueryData(assemblyQuery(event.assembly).queryKey);
        if (!known || known.turns.version < event.version) {
          void client.invalidateQueries({ queryKey: keys.assembly(event.assembly) });
        }
        void client.invalidateQueries({ queryKey: keys.assemblies });
      }
      if (event.event === 'line') {
        const known = client.getQueryData(groupQuery(event.group).queryKey);
        if (known && known.version < event.version) {
          void client.invalidateQueries({ queryKey: keys.group(event.group) });
        }
      }
    };
    const open = () => {
      source?.close();
      source = new EventSource('/api/events');
      // What was told while the stream was not open nobody heard.
      source.onopen = () => refetch('day', 'pass', 'jobs');
      source.onmessage = told;
    };
    // A page that was left may be kept for going back to, with its stream: of those a browser opens only a few.
    const close = () => source?.close();
    const again = (event: PageTransitionEvent) => event.persisted && open();
    open();
    window.addEventListener('pagehide', close);
    window.addEventListener('pageshow', again);
    return () => {
      close();
      window.removeEventListener('pagehide', close);
      window.removeEventListener('pageshow', again);
      window.clearTimeout(pending);
    };
  }, [client]);
}

import { useQuery } from '@tanstack/react-query';
import { useCallback, useMemo, useState } from 'react';
import { Link, useLocation } from 'wouter';
import { useCommands } from '../../api/commands';
import { useJobs, type Day } from '../../api/day';
import { arrivingQuery } from '../../api/queries';
import type { ArrivingClip, PassPlan } from '../../api/types';
import { Empty } from '../../frame/Empty';
import { Head } from '../../frame/Head';
import { idle } from '../../keys/table';
import { useKeys } from '../../keys/useKeys';
import { SCALES } from '../../model/elastic';
import { signed } from '../../model/format';
import { stemOf } from '../../model/names';
import { due, round } from '../../model/round';
import { bands, taking, without } from '../../model/sheet';
import { Button } from '../../parts/Button';
import { Choice } from '../../parts/Choice';
import { useTurned } from '../../parts/Turn';
import { EvidencePanel } from './EvidencePanel';
import { dayKeys } from './keys';
import { Ribbon } from './Ribbon';
import { Rows, anchorOf, inWindow } from './Sheet';
import { Columns, Tray } from './Tray';
import { useChanges } from './useChanges';
import { NOTCH, useSheet, type SheetView } from './useSheet';

/** The day as a log sheet: a column a device, time runs down. */
export function DaySheet({ day }: { day: Day }) {
  const run = useCommands();
  const said = useTurned();
  const [, go] = useLocation();
  const [chosen, setChosen] = useState<number | null>(null);
  const [reference, setReference] = useState<number | ''>('');
  const sheet = useMemo(() => bands(day), [day]);
  const [attach, view] = useSheet(sheet);
  const lost = useMemo(() => without(day), [day]);
  const shown = useMemo(() => {
    const here = sheet.flatMap((band) => band.slips.map((slip) => slip.clip.device));
    const ids = new Set([...here, ...lost.map((clip) => clip.device)]);
    return day.devices.filter((device) => ids.has(device.id));
  }, [day.devices, sheet, lost]);
  const syncing = useJobs().some((job) => job.kind === 'pass' && job.open > 0);
  const [how, setHow] = useState<Pick<PassPlan, 'mode' | 'effort'>>({ mode: 'day', effort: 'normal' });
  const { data: arriving = [] } = useQuery(arrivingQuery);
  const since = useChanges(day);
  const moved = useMemo(
    () => new Map((since.changes ?? []).map(({ clip, moved_s }) => [clip, moved_s ?? 0])),
    [since.changes],
  );
  const start = (plan: Partial<PassPlan>, device: number | null) =>
    void run.pass({ reference: device, plan: { ...how, clips: null, near: null, ...plan } });
  const look = useCallback(
    (plan: Partial<PassPlan>) =>
      void run.pass({ reference: null, plan: { ...how, clips: null, near: null, ...plan } }),
    [run, how],
  );
  const sync = () => start({}, reference === '' ? null : reference);
  const doubts = useMemo(() => due(round(day)), [day]);
  const order = useMemo(() => {
    const placed = sheet.flatMap((band) => band.slips.map((slip) => slip.clip.id));
    return [...new Set([...placed, ...lost.map((clip) => clip.id)])];
  }, [sheet, lost]);
  const step = (list: number[], by: number) => {
    const at = chosen === null ? -1 : list.indexOf(chosen);
    const next = list[at < 0 ? 0 : (at + by + list.length) % list.length];
    if (next === undefined) return;
    setChosen(next);
    const anchor = anchorOf(view, next);
    if (anchor) view.show(anchor);
  };
  // The chosen clip stays where it is, where it is in sight.
  const zoom = (by: number) => view.zoomTo(view.scale * by, inWindow(view, chosen));
  const keys = dayKeys({
    sync: () => syncing || sync(),
    doubt: () =>
      step(
        doubts.map(({ clip }) => clip.id),
        1,
      ),
    step: (by) => step(order, by),
    none: () => setChosen(null),
    zoom: (way) => zoom(way > 0 ? NOTCH ** 2 : NOTCH ** -2),
    whole: view.whole,
    round: () => go('/bench/round'),
    undo: () => void run.turnShown('undo').then((turned) => said('undo', turned)),
    redo: () => void run.turnShown('redo').then((turned) => said('redo', turned)),
  });
  useKeys(keys);
  if (day.clips.length === 0) {
    return (
      <Empty day={day} title="Day sheet" keys={dayKeys(idle())}>
        No clips yet. Bring the day in at <Link href="/intake">Intake</Link>.
      </Empty>
    );
  }
  return (
    <>
      <Head day={day} title="Day sheet" keys={keys}>
        {day.passes.length > 1 && (
          <Choice label="Show pass" value={day.pass?.id} onChange={(pass) => void run.showPass(Number(pass))}>
            {day.passes.map((pass) => (
              <option key={pass.id} value={pass.id}>
                {pass.number} {pass.name}
              </option>
            ))}
          </Choice>
        )}
        <Choice
          label="Reference"
          value={reference}
          onChange={(device) => setReference(device ? Number(device) : '')}
        >
          <option value="">best sound</option>
          {day.devices.map((device) => (
            <option key={device.id} value={device.id}>
              {device.letter} {device.name}
            </option>
          ))}
        </Choice>
        <Choice
          label="Ran"
          value={how.mode}
          onChange={(mode) => setHow({ ...how, mode: mode as PassPlan['mode'] })}
        >
          <option value="day">one day</option>
          <option value="playback">to the track</option>
        </Choice>
        <Choice
          label="Effort"
          value={how.effort}
          onChange={(effort) => setHow({ ...how, effort: effort as PassPlan['effort'] })}
        >
          <option value="normal">normal</option>
          <option value="deep">deep</option>
        </Choice>
        <Button main disabled={syncing} onClick={sync}>
          {syncing ? 'Syncing…' : 'Sync the day'}
        </Button>
      </Head>
      <div className="flex min-h-0 flex-1">
        <Ribbon day={day} bands={sheet} devices={shown} view={view} />
        <section aria-label="Sheet" className="flex min-w-0 flex-1 flex-col">
          <Columns devices={shown} day={day} />
          <div
            ref={attach}
            onScroll={view.look}
            className={`min-h-0 overflow-y-auto [scrollbar-gutter:stable] ${sheet.length === 0 ? 'shrink-0 pb-3' : 'flex-1'}`}
            data-testid="sheet"
          >
            {syncing && arriving.length > 0 && <Arriving day={day} arriving={arriving} />}
            {!day.pass && (
              <p className="px-4 pt-3 text-soft">
                Not synced yet:{' '}
                {sheet.length === 0
                  ? 'no clock says when these clips ran.'
                  : 'the clips stand where their own clocks say, and those that no clock places in their tray below.'}{' '}
                Press “Sync the day” to put them where they belong.
              </p>
            )}
            {sheet.length > 0 && (
              <Rows
                day={day}
                view={view}
                devices={shown}
                moved={moved}
                chosen={chosen}
                onChoose={setChosen}
              />
            )}
          </div>
          <Tray
            day={day}
            clips={lost}
            devices={shown}
            alone={sheet.length === 0}
            chosen={chosen}
            onChoose={setChosen}
          />
          <Foot day={day} view={view} left={doubts.length} />
        </section>
        <EvidencePanel
          day={day}
          clip={chosen}
          since={since}
          busy={syncing}
          onLook={look}
          onChoose={setChosen}
        />
      </div>
    </>
  );
}

/** First places a running pass found, newest first: they may move yet. */
function Arriving({ day, arriving }: { day: Day; arriving: ArrivingClip[] }) {
  const sure = arriving.filter((clip) => clip.sure).length;
  return (
    <p className="num border-b border-line px-4 py-2 text-[12px]" data-testid="arriving" aria-live="polite">
      <b className="font-semibold">{arriving.length} found so far</b>
      <span className="text-soft">
        , {sure} beyond doubt:{' '}
        {arriving
          .slice(-6)
          .reverse()
          .map((clip) => `${stemOf(day, clip.clip)} at ${signed(clip.start_s, 1)} s`)
          .join(', ')}
      </span>
    </p>
  );
}

/** What the pass found, and how close the sheet is looked at. */
function Foot({ day, view, left }: { day: Day; view: SheetView; left: number }) {
  const resting = day.placements.length - taking(day).length;
  const { solid, check, by_hand, unplaced } = day.counts;
  const said = [
    `${solid} solid`,
    `${check} check`,
    by_hand > 0 && `${by_hand} by hand`,
    `${unplaced} unplaced, in ${day.pass?.took_s.toFixed(1)} s`,
    resting > 0 && `${resting} take no part`,
  ];
  return (
    <footer className="flex shrink-0 items-center gap-3 border-t border-line px-3 py-1 text-[12px] text-soft">
      <span className="min-w-0 truncate">{day.pass && said.filter(Boolean).join(' · ')}</span>
      {left > 0 && (
        <Link href="/bench/round" className="whitespace-nowrap text-accent underline">
          {left} to look at
        </Link>
      )}
      <span className="flex-1" />
      <label className="flex items-center gap-2">
        Scale
        <input
          type="range"
          aria-label="Scale of the sheet"
          aria-valuetext={scaleSaid(view.scale)}
          min={Math.log(SCALES.least)}
          max={Math.log(SCALES.most)}
          step={0.02}
          value={Math.log(view.scale)}
          onChange={(event) => view.zoomTo(Math.exp(Number(event.target.value)))}
          className="w-32 accent-accent"
        />
        <span className="num w-[116px] whitespace-nowrap">{scaleSaid(view.scale)}</span>
      </label>
      <Button small onClick={view.whole}>
        Whole day
      </Button>
    </footer>
  );
}

/** What a finger's breadth of the sheet is: a hundred pixels. */
function scaleSaid(scale: number): string {
  const seconds = 100 / scale;
  const said =
    seconds >= 5400
      ? `${(seconds / 3600).toFixed(1)} h`
      : seconds >= 90
        ? `${Math.round(seconds / 60)} min`
        : seconds >= 10
          ? `${Math.round(seconds)} s`
          : `${seconds.toFixed(seconds < 1 ? 2 : 1)} s`;
  return `100 px = ${said}`;
}

import { useQuery } from '@tanstack/react-query';
import { useCallback, useMemo, useState } from 'react';
import { Link, useLocation } from 'wouter';
import { useCommands, useTurned } from '../../api/commands';
import { useJobs, type Day } from '../../api/day';
import { arrivingQuery } from '../../api/queries';
import type { PassPlan } from '../../api/types';
import { Empty } from '../../frame/Empty';
import { Head } from '../../frame/Head';
import { idle } from '../../keys/table';
import { useKeys } from '../../keys/useKeys';
import type { How, Kind } from '../../model/chosen';
import { nearRough } from '../../model/near';
import { due, round } from '../../model/round';
import { shootDays, ofDay, type ShootDay } from '../../model/days';
import { bands, firstPlaces, without } from '../../model/sheet';
import { tracksOf } from '../../model/tracks';
import { Button } from '../../parts/Button';
import { Choice } from '../../parts/Choice';
import { useKept } from '../../parts/useKept';
import { Arriving } from './Arriving';
import { Days } from './Days';
import { EvidencePanel } from './EvidencePanel';
import { Foot } from './Foot';
import { dayKeys } from './keys';
import { Ribbon } from './Ribbon';
import { Rows, anchorOf, inWindow } from './Sheet';
import { Tracks } from './Tracks';
import { Columns, Tray } from './Tray';
import { useChanges } from './useChanges';
import { useChosen } from './useChosen';
import { useRough } from './useRough';
import { NOTCH, useSheet } from './useSheet';

/** Which shoot day's sheet is shown: as somebody chose, else the first. */
export function DaySheet({ day }: { day: Day }) {
  const doubts = useMemo(() => due(round(day)), [day]);
  const days = useMemo(() => shootDays(day, new Set(doubts.map(({ clip }) => clip.id))), [day, doubts]);
  const [wanted, setWanted] = useState<string | null | undefined>(undefined);
  const known = wanted === null || days.some(({ name }) => name === wanted);
  const shown = known && wanted !== undefined ? wanted : (days[0]?.name ?? null);
  const own = useMemo(() => ofDay(day, shown), [day, shown]);
  return <OneSheet key={shown} day={own} days={days} shown={shown} onShow={setWanted} />;
}

type OneProps = { day: Day; days: ShootDay[]; shown: string | null; onShow: (name: string | null) => void };

/** The day as a log sheet: a column a device, time runs down. */
function OneSheet({ day, days, shown: shootDay, onShow }: OneProps) {
  const run = useCommands();
  const said = useTurned();
  const [, go] = useLocation();
  const [reference, setReference] = useState<number | ''>('');
  const [folded, fold] = useKept('day-folds');
  const { data: arriving = [] } = useQuery(arrivingQuery);
  const first = useMemo(() => firstPlaces(arriving), [arriving]);
  const sheet = useMemo(() => bands(day, folded, first), [day, folded, first]);
  const [attach, view] = useSheet(sheet);
  const lost = useMemo(() => without(day, first), [day, first]);
  const shown = useMemo(() => {
    const here = sheet.flatMap((band) => band.slips.map((slip) => slip.clip.device));
    const ids = new Set([...here, ...lost.map((clip) => clip.device)]);
    return day.devices.filter((device) => ids.has(device.id));
  }, [day.devices, sheet, lost]);
  const syncing = useJobs().some((job) => job.kind === 'pass' && job.open > 0);
  const [how, setHow] = useState<Pick<PassPlan, 'mode' | 'effort'>>({ mode: 'day', effort: 'normal' });
  const since = useChanges(day);
  const moved = useMemo(
    () => new Map((since.changes ?? []).map(({ clip, moved_s }) => [clip, moved_s ?? 0])),
    [since.changes],
  );
  const tracks = useMemo(() => tracksOf(day), [day]);
  const rows = useMemo(
    () => tracks?.flatMap(({ takes }) => takes.map(({ clip }) => clip.id)) ?? null,
    [tracks],
  );
  const { chosen, order, choose, kind, several, step: stepTo, ...all } = useChosen(day, sheet, lost, rows);
  const laid = useRough(day, sheet, view, choose);
  const { rough, clear } = laid;
  const look = useCallback(
    (plan: Partial<PassPlan>, device: number | null = null) =>
      void run.pass({ reference: device, plan: { ...how, clips: null, near: null, day: null, ...plan } }),
    [run, how],
  );
  // Performances are of no day, and a day has no place on the axis of a track: then all is synced.
  const synced = tracks || how.mode === 'playback' ? null : shootDay;
  const sync = () => look({ day: synced }, reference === '' ? null : reference);
  const dayAt = (by: 1 | -1) => {
    const names = [...days.map(({ name }) => name), null];
    if (days.length > 0) onShow(names[(names.indexOf(shootDay) + by + names.length) % names.length] ?? null);
  };
  const doubts = useMemo(() => due(round(day)), [day]);
  const show = (clip: number | null) => {
    const anchor = clip === null ? null : anchorOf(view, clip);
    if (anchor) view.show(anchor);
  };
  const step = (list: number[], by: number, how?: How) => show(stepTo(list, by, how));
  const chooseKind = (of: Kind) => show(kind(of));
  // The chosen clip stays where it is, where it is in sight.
  const zoom = (by: number) => view.zoomTo(view.scale * by, inWindow(view, chosen.lead));
  const keys = dayKeys({
    sync: () => syncing || sync(),
    doubt: () =>
      step(
        doubts.map(({ clip }) => clip.id),
        1,
      ),
    step: (by, extend) => step(order, by, { extend }),
    ...all,
    none: () => {
      clear();
      all.none();
    },
    anew: () => chosen.all.size > 0 && day.pass && !syncing && look({ clips: [...chosen.all] }),
    shift: (by) => chosen.lead !== null && laid.shift(chosen.lead, by),
    near: () => {
      const near = syncing || !rough ? null : nearRough(day, rough);
      if (near) look({ near });
    },
    lay: () => void laid.lay(),
    zoom: (way) => zoom(way > 0 ? NOTCH ** 2 : NOTCH ** -2),
    whole: view.whole,
    dayAt,
    fold,
    round: () => go('/bench/round'),
    bench: () => chosen.lead !== null && go(`/bench/${chosen.lead}/against`),
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
          {syncing ? 'Syncing…' : synced === null && days.length > 0 ? 'Sync all days' : 'Sync the day'}
        </Button>
      </Head>
      {days.length > 0 && <Days days={days} shown={shootDay} onShow={onShow} />}
      <div className="flex min-h-0 flex-1">
        {!tracks && <Ribbon day={day} bands={sheet} devices={shown} view={view} />}
        <section aria-label="Sheet" className="flex min-w-0 flex-1 flex-col">
          {!tracks && <Columns devices={shown} day={day} onChoose={(device) => chooseKind({ device })} />}
          <div
            ref={attach}
            onScroll={view.look}
            className={`min-h-0 overflow-y-auto [scrollbar-gutter:stable] ${sheet.length === 0 ? 'shrink-0 pb-3' : 'flex-1'}`}
            data-testid="sheet"
          >
            {syncing && arriving.length > 0 && <Arriving day={day} arriving={arriving} />}
            {!day.placements.length && (
              <p className="px-4 pt-3 text-soft">
                Not synced yet:{' '}
                {sheet.length === 0
                  ? 'no clock says when these clips ran.'
                  : 'the clips stand where their own clocks say, and those that no clock places in their tray below.'}{' '}
                Press “Sync the day” to put them where they belong.
              </p>
            )}
            {tracks && <Tracks day={day} tracks={tracks} chosen={chosen.all} onChoose={choose} />}
            {!tracks && sheet.length > 0 && (
              <Rows
                day={day}
                view={view}
                devices={shown}
                moved={moved}
                chosen={chosen.all}
                rough={rough}
                onChoose={choose}
                onGrab={laid.grabSlip}
                onScene={(scene) => chooseKind({ scene })}
              />
            )}
          </div>
          <Tray
            day={day}
            clips={lost}
            devices={shown}
            alone={sheet.length === 0}
            chosen={chosen.all}
            onChoose={choose}
            onGrab={laid.grabLost}
          />
          <Foot
            day={day}
            view={tracks ? null : view}
            left={doubts.length}
            onKind={chooseKind}
            onAll={all.all}
            folded={folded}
            onFold={fold}
          />
        </section>
        <EvidencePanel
          day={day}
          chosen={chosen}
          rough={rough}
          onRoughDone={clear}
          since={since}
          busy={syncing}
          onLook={look}
          onChoose={choose}
          onSeveral={several}
        />
      </div>
    </>
  );
}

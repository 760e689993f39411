import { useState } from 'react';
import type { Day } from '../api/day';
import type { ClipView, FrameRate, Layer } from '../api/types';
import { length } from '../model/format';
import { stem } from '../model/names';
import { speedSaid } from '../model/over';
import { Ask } from './Ask';
import { Button } from './Button';
import { Choice } from './Choice';
import { Stamp } from './Stamp';
import { Frames } from './Frames';
import { Percent } from './Percent';

/** What can be laid: a clip, from a frame of its own on. */
export type Offer = { clip: ClipView; from: number; said: string };

type Props = {
  day: Day;
  title: string;
  hint: string;
  /** Where it is laid, in a word or two. */
  verb: string;
  /** What is heard with it where its own sound is not. */
  unheard: string;
  /** How frames are counted there. */
  rate: FrameRate;
  /** How many are meant at first. */
  frames: number;
  /** What runs there anyway: offered before all others. */
  running: readonly Offer[];
  onLay: (layer: Layer) => void;
  onClose: () => void;
};

const OWN: Layer['speed'] = { num: 1, den: 1 };

/** A clip's pictures at a speed, chosen from all of the day: laid over a line, or put into an assembly. */
export function LayAsk({
  day,
  title,
  hint,
  verb,
  unheard,
  rate: { num, den },
  frames: first,
  running,
  onLay,
  onClose,
}: Props) {
  const [wanted, setWanted] = useState('');
  const [frames, setFrames] = useState(first);
  const [pace, setPace] = useState<'own' | 'each' | 'typed'>('own');
  const [typed, setTyped] = useState<Layer['speed']>({ num: 1, den: 2 });
  const [blended, setBlended] = useState(false);
  const [ownSound, setOwnSound] = useState(false);
  const speedOf = ({ facts }: ClipView): Layer['speed'] => {
    const rate = facts.picture?.rate;
    if (pace === 'each' && rate) return { num: num * rate.den, den: den * rate.num };
    return pace === 'typed' ? typed : OWN;
  };
  const others = day.clips.flatMap((clip): Offer[] =>
    clip.facts.picture
      ? [{ clip, from: 0, said: clip.facts.picture.still ? 'a still' : 'from its head' }]
      : [],
  );
  const holds = ({ clip, said }: Offer) =>
    `${clip.relative} ${said}`.toLowerCase().includes(wanted.trim().toLowerCase());
  const lay = ({ clip, from }: Offer) => {
    const layer: Layer = { at: 0, frames, clip: clip.id, from, speed: speedOf(clip) };
    const heard = ownSound && clip.facts.sound !== null;
    onLay({ ...layer, ...(blended && { blended }), ...(heard && { own_sound: true }) });
    onClose();
  };
  const row = (offer: Offer, here: boolean) => {
    const { clip, from, said } = offer;
    const rate = clip.facts.picture?.rate;
    return (
      <li
        key={`${here ? 'angle' : 'clip'} ${clip.id} ${said}`}
        className="flex h-9 items-center gap-3 border-b border-line"
      >
        <Stamp devices={day.devices} id={clip.device} />
        <span className="min-w-0 flex-1 truncate" title={clip.relative}>
          {stem(clip)}
        </span>
        <span className="w-40 truncate text-soft">{here ? `${said}, from its frame ${from}` : said}</span>
        <span className="num w-24 text-right whitespace-nowrap text-soft">
          {rate && `${Number((rate.num / rate.den).toFixed(3))} fps`}
        </span>
        <span className="num w-16 text-right text-soft">
          {clip.facts.picture?.still ? '' : length(clip.facts.duration_s)}
        </span>
        <span className="num w-20 text-right text-soft">{speedSaid(speedOf(clip))}</span>
        <Button small aria-label={`Lay ${here ? said : stem(clip)} ${verb}`} onClick={() => lay(offer)}>
          Lay
        </Button>
      </li>
    );
  };
  return (
    <Ask width={860} title={title} onClose={onClose}>
      <p className="pt-1 text-soft">{hint}</p>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2 py-3">
        <Frames label="Frames" value={frames} onSet={(own) => setFrames(Math.max(1, own))} />
        <Choice label="Speed" value={pace} onChange={(own) => setPace(own as typeof pace)}>
          <option value="own">its own</option>
          <option value="each">frame by frame</option>
          <option value="typed">typed</option>
        </Choice>
        {pace === 'typed' && <Percent value={typed} onSet={setTyped} />}
        <Choice
          label="In between"
          value={blended ? 'blended' : 'whole'}
          onChange={(own) => setBlended(own === 'blended')}
        >
          <option value="whole">whole frames</option>
          <option value="blended">blended</option>
        </Choice>
        <Choice
          label="Sound"
          value={ownSound ? 'own' : 'line'}
          onChange={(own) => setOwnSound(own === 'own')}
        >
          <option value="line">{unheard}</option>
          <option value="own">its own, as fast</option>
        </Choice>
        <label className="flex items-center gap-2">
          <span className="text-soft">Names hold (enter: the first)</span>
          <input
            data-autofocus
            value={wanted}
            onChange={(event) => setWanted(event.target.value)}
            onKeyDown={(event) => {
              const [found] = [...running, ...others].filter(holds);
              if (event.key === 'Enter' && found) lay(found);
            }}
            className="w-40 rounded-[3px] border border-line bg-sheet px-2 py-1"
          />
        </label>
      </div>
      <div className="min-h-0 overflow-y-auto border-t border-line">
        <ul aria-label="Angles that run here">{running.filter(holds).map((offer) => row(offer, true))}</ul>
        <ul aria-label="Clips of the day">{others.filter(holds).map((offer) => row(offer, false))}</ul>
      </div>
      <div className="flex justify-end pt-3">
        <Button onClick={onClose}>Leave it</Button>
      </div>
    </Ask>
  );
}

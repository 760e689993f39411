import type { GridView } from '../api/types';
import { heardOf } from '../model/grid';

/** Seconds in which a level changes: fast for the ear, slow enough not to click. */
const FADE_S = 0.005;

/** Samples that a meter looks at. */
const LOOK = 1024;

type Bus = { gain: GainNode; meter: AnalyserNode };

/** From tracks through a grid to the ears, to be changed while they play. */
export class GridMix {
  private context: AudioContext | null = null;
  private sources: (Bus & { alone: GainNode })[] = [];
  private outputs: (Bus & { ear: StereoPannerNode | null })[] = [];
  private points = new Map<string, GainNode>();
  private all: GainNode | null = null;
  private readonly look = new Float32Array(LOOK);
  /** The device whose picture is shown; null where none is. */
  private air: number | null = null;
  /** The device whose own sound is heard instead of what comes out of the grid. */
  private instead: number | null = null;
  /** Devices that are heard so at times: their tracks have to be there. */
  private turns: readonly number[] = [];

  constructor(
    private view: GridView,
    private alone: number | null = null,
  ) {}

  /** Opens it on a sound. */
  connect(context: AudioContext) {
    this.disconnect();
    this.context = context;
    const bus = (): Bus => {
      const [gain, meter] = [context.createGain(), context.createAnalyser()];
      meter.fftSize = LOOK;
      gain.connect(meter);
      return { gain, meter };
    };
    this.all = context.createGain();
    this.all.connect(context.destination);
    this.sources = this.view.sources.map(() => {
      const alone = context.createGain();
      const own = { ...bus(), alone };
      alone.gain.value = 0;
      own.gain.connect(alone).connect(context.destination);
      return own;
    });
    this.build();
    this.apply(0);
  }

  disconnect() {
    for (const { gain, alone } of this.sources) {
      gain.disconnect();
      alone.disconnect();
    }
    for (const point of this.points.values()) point.disconnect();
    for (const { gain, ear } of this.outputs) {
      gain.disconnect();
      ear?.disconnect();
    }
    this.all?.disconnect();
    this.all = null;
    this.sources = [];
    this.outputs = [];
    this.points.clear();
    this.context = null;
  }

  /** Makes the outputs that the grid has, where they are heard. */
  private build() {
    const { context, all } = this;
    if (!context || !all) return;
    this.view.grid.outputs.forEach(({ ear }, number) => {
      let own = this.outputs[number];
      if (!own) {
        const [gain, meter] = [context.createGain(), context.createAnalyser()];
        meter.fftSize = LOOK;
        gain.connect(meter);
        own = { gain, meter, ear: null };
        this.outputs[number] = own;
        gain.connect(all);
      }
      const side = ear === 'left' ? -1 : ear === 'right' ? 1 : 0;
      if (side === 0 && own.ear) {
        own.gain.disconnect(own.ear);
        own.ear.disconnect();
        own.ear = null;
        own.gain.connect(all);
      }
      if (side !== 0) {
        if (!own.ear) {
          own.ear = context.createStereoPanner();
          own.gain.disconnect(all);
          own.gain.connect(own.ear).connect(all);
        }
        own.ear.pan.value = side;
      }
    });
  }

  /** Which tracks have to be there: those that go anywhere, or the one alone. */
  get wanted(): readonly number[] {
    if (this.alone !== null) return [this.alone];
    const turns = this.view.sources.flatMap(({ key }, i) =>
      key.device !== null && this.turns.includes(key.device) ? [i] : [],
    );
    return [...new Set([...heardOf(this.view), ...turns])].sort((a, b) => a - b);
  }

  /** Where a track's sound goes. */
  track(number: number): AudioNode {
    const source = this.sources[number];
    if (!source) throw new Error('a track that is not there');
    return source.gain;
  }

  /** Another grid of the same tracks, or another track alone: heard at once. */
  set(view: GridView, alone: number | null) {
    this.view = view;
    this.alone = alone;
    this.build();
    this.apply(FADE_S);
  }

  /** Another device's picture is shown. */
  setAir(device: number | null) {
    if (this.air === device) return;
    this.air = device;
    this.apply(FADE_S);
  }

  /** Devices whose own sound is heard at times. */
  setTurns(turns: readonly number[]) {
    this.turns = turns;
  }

  /** A device's own sound is heard instead of the grid's, or the grid's again; over so many seconds. */
  setInstead(device: number | null, seconds: number) {
    if (this.instead === device) return;
    this.instead = device;
    this.apply(Math.max(FADE_S, seconds / 3));
  }

  private apply(fade: number) {
    const { context, view, all } = this;
    if (!context || !all) return;
    const to = (param: AudioParam, value: number) => {
      if (fade === 0) param.value = value;
      else param.setTargetAtTime(value, context.currentTime, fade);
    };
    to(all.gain, this.alone === null ? 1 : 0);
    this.sources.forEach(({ alone }, i) => to(alone.gain, this.alone === i ? 1 : 0));
    this.outputs.forEach(({ gain: output }, number) => {
      const follows = view.grid.outputs[number]?.follows ?? false;
      this.sources.forEach(({ gain: source }, i) => {
        const own = view.sources[i];
        const shown = !follows || !own?.camera || own.key.device === this.air;
        const factor =
          this.instead === null
            ? shown
              ? (view.factors[number]?.[i] ?? 0)
              : 0
            : own?.key.device === this.instead && !view.grid.outputs[number]?.muted
              ? 1 / view.sources.filter(({ key }) => key.device === this.instead).length
              : 0;
        const name = `${i} ${number}`;
        let point = this.points.get(name);
        if (!point) {
          if (factor === 0) return;
          point = context.createGain();
          point.gain.value = 0;
          source.connect(point).connect(output);
          this.points.set(name, point);
        }
        to(point.gain, factor);
      });
    });
  }

  /** The loudest sample of late of each track and each output. */
  peaks(): { sources: number[]; outputs: number[] } {
    const peak = ({ meter }: Bus) => {
      meter.getFloatTimeDomainData(this.look);
      return this.look.reduce((most, value) => Math.max(most, Math.abs(value)), 0);
    };
    return { sources: this.sources.map(peak), outputs: this.outputs.map(peak) };
  }
}

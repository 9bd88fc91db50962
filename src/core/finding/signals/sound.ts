/**
 * Streaming analysis of sound, 100 hops a second. The onset function is the spectral flux of
 * S. Boeck and G. Widmer, "Maximum filter vibrato suppression for onset detection", DAFx 2013:
 * quarter tones, maximum filter over three bands, difference to the hop 10 ms before (the paper's
 * 200 frames a second with a difference over two give the same lag; every second of its frames is
 * left out). What it hides beside its peaks is found in single bands.
 */
import { attackFeatures, CONTEXT_AFTER, CREST_HOPS, CREST_REGIONS, CREST_STEP, FEATURES } from '../kinds/features.ts';
import { ATTACK_SPECTRUM_BYTES, takeAttackSpectra } from '../kinds/attack-spectra.ts';
import { kindBytes } from '../kinds/model.ts';
import { GrowingArray } from './growing-array.ts';
import { isPeak, prominence } from './local-prominence.ts';
import { quarterTones, WINDOW } from './quarter-tones.ts';
import { Resampler, type ResamplerState } from '../../base/resample.ts';
import { Rises, type RisesState } from './rises.ts';
import { SoftOnsets, type SoftOnsetsState } from './soft-onsets.ts';
import { ANALYSIS_RATE } from './spectrum.ts';
import { BARK_BANDS, CHROMA_RATE, keptLevel, SOUND_CLASSES, type SoundSignals, LEAST_OVER } from './types.ts';

export const HOPS_PER_SECOND = 100;
/** Samples from one hop to the next. */
const HOP = ANALYSIS_RATE / HOPS_PER_SECOND;

/**
 * Edges of the kept bands in Hz: E. Zwicker, "Subdivision of the audible frequency range into
 * critical bands", J. Acoust. Soc. Am. 33, 1961, its two lowest bands halved for the bass drum.
 */
export const BARK_EDGES = [
  20, 60, 100, 150, 200, 300, 400, 510, 630, 770, 920, 1080, 1270, 1480, 1720, 2000, 2320, 2700, 3150, 3700, 4400, 5300,
  6400, 7700, 9500, 12000, 15500,
] as const;

/** Pitch classes are read between these, where windows of 46 ms still tell neighbouring notes apart. */
const CHROMA_LOWEST = 180;
const CHROMA_HIGHEST = 2100;

const BARK_BINS = BARK_EDGES.map((hz) => Math.round((hz * WINDOW) / ANALYSIS_RATE));
/** Pitch classes of bins, from the first that has one. */
const PITCH_FIRST = Math.ceil((CHROMA_LOWEST * WINDOW) / ANALYSIS_RATE);
const PITCHES = Int8Array.from(
  { length: Math.floor((CHROMA_HIGHEST * WINDOW) / ANALYSIS_RATE) + 1 - PITCH_FIRST },
  (_, i) => ((Math.round(12 * Math.log2(((PITCH_FIRST + i) * ANALYSIS_RATE) / WINDOW / 440)) % 12) + 12) % 12,
);

/** All that the analyser must remember to go on later: plain data, so that it can be stored. */
export interface SoundState extends Omit<SoundSignals, 'rate' | 'attackKinds' | 'soft'> {
  /** Of what is taken. */
  readonly sampleRate: number;
  readonly gain: number;
  /** Samples taken so far. */
  readonly taken: number;
  /** None where samples come at the rate of the analysis. */
  readonly resampler: ResamplerState | null;
  readonly hop: number;
  readonly base: number;
  readonly buffer: Float32Array;
  readonly history: Float32Array;
  readonly pitch: Float64Array;
  /** Rings of what is known only until an attack is told apart: crests of the last hops, attack spectra of the last attacks. */
  readonly crests: Uint8Array;
  readonly attackSpectra: Uint8Array;
  /** Of the attacks that were told apart already. */
  readonly kinds: Uint8Array;
  readonly bandRises: RisesState;
  readonly softOnsets: SoftOnsetsState;
  /** Attacks that others may still come before. */
  readonly peaked: readonly Candidate[];
  readonly risen: readonly Risen[];
}

/** An attack, in samples, and its hop. */
interface Candidate {
  readonly at: number;
  readonly hop: number;
}

/** A rise in a single band. */
interface Risen {
  readonly t: number;
  readonly decibels: number;
}

/** Power of a bin that is as good as silence where the loudest of several is compared with their mean. */
const FAINTEST = 1e-9 / (WINDOW / 4) ** 2;
/** Flux below this is never a candidate, at any sensitivity. */
const FLOOR = 0.5;
/** Hops after a candidate that refinement and its attack spectra need. */
const LATER = 14;
/** Hops before the last, itself half a window before the end, that give no attacks. */
const END = 3;
/** Hops that an attack lies before the one considered when no other comes before it any more. */
const SETTLED = 6;
/** Seconds within which rises in several bands are one attack, and a rise is that of a peak of the flux. */
const ONE_RISE = 0.015;
const OF_PEAK = 0.012;
export const UNTOLD = new Uint8Array(SOUND_CLASSES.length);
/** Attacks that wait to be told apart are fewer: hardly any two lie within 12 ms. */
const WAITING = 192;

/** Decibels of one step of gain, so that what decoders do by chance hardly ever matters, and the most of them. */
const STEP = 3;
const MOST_STEPS = 8;

/** What a recording whose loudest sample is `peak` is multiplied by: a quiet one is heard as loud as those that kinds were learned from. */
export const gainFor = (peak: number): number =>
  10 ** ((STEP * Math.max(0, Math.min(MOST_STEPS, Math.floor((-20 * Math.log10(peak || 1)) / STEP)))) / 20);

/**
 * Takes mono samples in blocks of any size and gives the same signals however they are cut. Whatever
 * their rate, all is heard at {@link ANALYSIS_RATE}; hop h is centred on sample h * {@link HOP} of that.
 */
export class SoundAnalyser {
  private readonly tones = quarterTones();
  private resampler: Resampler | null;
  /** Decibels of the gain. */
  private readonly louder: number;
  /** Log bands of this and the hop before. */
  private history = [0, 1].map(() => new Float32Array(this.tones.levels.length));
  private pitch = new Float64Array(12);
  /** `base` is the absolute index of buffer[0]. */
  private buffer: Float32Array;
  private base: number;
  private filled: number;
  private hop = 0;
  private taken = 0;
  private readonly onset = new GrowingArray(Float32Array);
  private readonly peaks = new GrowingArray(Uint8Array);
  private readonly bands = new GrowingArray(Uint8Array);
  private readonly chroma = new GrowingArray(Uint8Array);
  private readonly attacks = new GrowingArray(Float64Array);
  private readonly attackHops = new GrowingArray(Uint32Array);
  private readonly kinds = new GrowingArray(Uint8Array);
  private bandRises = new Rises();
  private softOnsets = new SoftOnsets();
  private peaked: Candidate[] = [];
  private risen: Risen[] = [];
  private readonly spectra = new Uint8Array(WAITING * ATTACK_SPECTRUM_BYTES);
  private readonly crests = new Uint8Array(CREST_HOPS * CREST_REGIONS.length);
  private readonly powers = new Float64Array(BARK_BANDS);
  private readonly tops = new Float64Array(BARK_BANDS);
  private readonly features = new Float32Array(FEATURES);

  /**
   * @param tell gives the probabilities 0-255 of the SOUND_CLASSES for an attack's features
   * @param gain what samples are multiplied by before they are heard, see {@link gainFor}; bands and peaks are kept as they came
   */
  constructor(
    private readonly sampleRate: number,
    private readonly start = 0,
    private readonly tell: (features: Float32Array, attack: number) => Uint8Array = kindBytes,
    private readonly gain = 1,
  ) {
    this.louder = 20 * Math.log10(gain);
    this.resampler = sampleRate === ANALYSIS_RATE ? null : new Resampler(sampleRate, ANALYSIS_RATE);
    this.buffer = new Float32Array(WINDOW * 16);
    // Half a window of silence before the first sample.
    this.base = -WINDOW / 2;
    this.filled = WINDOW / 2;
  }

  /** Goes on from where {@link state} was taken. */
  static resumed(state: SoundState): SoundAnalyser {
    const analyser = new SoundAnalyser(state.sampleRate, state.start, kindBytes, state.gain);
    analyser.taken = state.taken;
    analyser.hop = state.hop;
    analyser.base = state.base;
    analyser.filled = state.buffer.length;
    analyser.buffer = new Float32Array(Math.max(WINDOW * 16, state.buffer.length));
    analyser.buffer.set(state.buffer);
    const bands = analyser.tones.levels.length;
    analyser.history = [0, 1].map((i) => state.history.slice(i * bands, (i + 1) * bands));
    analyser.pitch = state.pitch.slice();
    for (const name of ['onset', 'peaks', 'bands', 'chroma', 'attacks', 'attackHops', 'kinds'] as const)
      analyser[name].put(state[name] as never);
    analyser.crests.set(state.crests);
    analyser.spectra.set(state.attackSpectra);
    analyser.bandRises = new Rises(state.bandRises);
    analyser.softOnsets = new SoftOnsets(state.softOnsets);
    if (state.resampler) analyser.resampler = new Resampler(state.sampleRate, ANALYSIS_RATE, state.resampler);
    analyser.peaked = [...state.peaked];
    analyser.risen = [...state.risen];
    return analyser;
  }

  /** Independent of the analyser from then on. */
  state(): SoundState {
    return {
      sampleRate: this.sampleRate,
      gain: this.gain,
      start: this.start,
      taken: this.taken,
      resampler: this.resampler?.state() ?? null,
      hop: this.hop,
      base: this.base,
      buffer: this.buffer.slice(0, this.filled),
      history: Float32Array.from([...this.history[0]!, ...this.history[1]!]),
      pitch: this.pitch.slice(),
      onset: this.onset.all(),
      peaks: this.peaks.all(),
      bands: this.bands.all(),
      chroma: this.chroma.all(),
      attacks: this.attacks.all(),
      attackHops: this.attackHops.all(),
      kinds: this.kinds.all(),
      crests: this.crests.slice(),
      attackSpectra: this.spectra.slice(),
      bandRises: this.bandRises.state(),
      softOnsets: this.softOnsets.state(),
      peaked: [...this.peaked],
      risen: [...this.risen],
    };
  }

  private centre(hop: number): number {
    return hop * HOP;
  }

  push(block: Float32Array): void {
    if (this.resampler) this.resampler.take(block, (piece) => this.hear(piece));
    else this.hear(block);
    this.taken += block.length;
  }

  /** Samples at the rate of the analysis. */
  private hear(samples: Float32Array): void {
    const { buffer, gain } = this;
    for (let at = 0; at < samples.length;) {
      const piece = samples.subarray(at, at + buffer.length - this.filled);
      buffer.set(piece, this.filled);
      if (gain !== 1) for (let i = this.filled; i < this.filled + piece.length; i++) buffer[i]! *= gain;
      this.filled += piece.length;
      at += piece.length;
      this.run();
      this.compact();
    }
  }

  private run(): void {
    while (this.centre(this.hop) + WINDOW / 2 <= this.base + this.filled) {
      this.analyse(this.hop);
      if (this.hop >= LATER) {
        this.consider(this.hop - LATER);
        this.settle(this.hop - LATER - SETTLED);
      }
      this.hop++;
      this.tellApart(this.hop - CONTEXT_AFTER);
    }
  }

  /** Keeps a window and what refinement looks back at. */
  private compact(): void {
    const keepFrom = this.centre(this.hop - LATER) - Math.round(ANALYSIS_RATE * 0.11);
    const drop = keepFrom - this.base;
    if (drop > WINDOW * 4) {
      this.buffer.copyWithin(0, drop, this.filled);
      this.base += drop;
      this.filled -= drop;
    }
  }

  private analyse(hop: number): void {
    const centre = this.centre(hop);
    const from = centre - WINDOW / 2 - this.base;
    const { buffer } = this;
    this.tones.take(buffer, from);
    // Rounded to a 32nd: finer than any threshold, and much smaller once compressed.
    this.onset.push(Math.round(this.flux(hop) * 32) / 32);
    this.softOnsets.take(this.tones.levels);
    this.keepBands(hop);
    this.keepChroma(hop);
    let peak = 0;
    const end = Math.min(this.centre(hop + 1) - this.base, this.filled);
    for (let i = centre - this.base; i < end; i++) peak = Math.max(peak, Math.abs(buffer[i]!));
    this.peaks.push(Math.min(255, Math.round((peak / this.gain) * 255)));
    this.bandRises.take(buffer.subarray(0, this.filled), centre - this.base, hop, HOPS_PER_SECOND, (t, decibels) =>
      this.risen.push({ t, decibels }),
    );
  }

  private flux(hop: number): number {
    const bands = this.history[hop & 1]!;
    const before = this.history[(hop + 1) & 1]!;
    bands.set(this.tones.levels);
    if (hop < 1) return 0;
    let flux = 0;
    for (let b = 0, count = bands.length; b < count; b++) {
      const top = Math.max(before[b]!, b > 0 ? before[b - 1]! : 0, b + 1 < count ? before[b + 1]! : 0);
      const rise = bands[b]! - top;
      if (rise > 0) flux += rise;
    }
    return flux;
  }

  private keepBands(hop: number): void {
    const { powers, tops } = this;
    const { spectrum } = this.tones;
    for (let b = 0; b < BARK_BANDS; b++) {
      const [from, to] = [BARK_BINS[b]!, BARK_BINS[b + 1]!];
      powers[b] = spectrum.power(from, to);
      tops[b] = spectrum.greatest(from, to);
      this.bands.push(keptLevel(powers[b]!, this.louder));
    }
    CREST_REGIONS.forEach(([first, end], region) => {
      let power = 0;
      let top = 0;
      for (let b = first; b < end; b++) {
        power += powers[b]!;
        if (tops[b]! > top) top = tops[b]!;
      }
      const bins = BARK_BINS[end]! - BARK_BINS[first]!;
      const crest = 10 * Math.log10((top + FAINTEST) / (power / bins + FAINTEST));
      this.crests[(hop % CREST_HOPS) * CREST_REGIONS.length + region] = Math.max(
        0,
        Math.min(255, Math.round(crest / CREST_STEP)),
      );
    });
  }

  private keepChroma(hop: number): void {
    const { pitch } = this;
    const { magnitudes } = this.tones.spectrum;
    for (let i = 0; i < PITCHES.length; i++) pitch[PITCHES[i]!]! += magnitudes[PITCH_FIRST + i]!;
    if ((hop + 1) % (HOPS_PER_SECOND / CHROMA_RATE)) return;
    const most = Math.max(...pitch, 1e-6);
    for (let p = 0; p < 12; p++) this.chroma.push(Math.round((pitch[p]! / most) * 17) * 15);
    pitch.fill(0);
  }

  /** Takes hop `h` for an attack when it is the largest of its neighbours. */
  private consider(h: number): void {
    // The first 30 ms: that a recording begins is not a hit.
    if (h >= 3 && this.onset.at(h) >= FLOOR && isPeak(this.onset.view(), h))
      this.peaked.push({ at: this.refine(h), hop: h });
  }

  /**
   * Keeps the attacks from where was settled before to a hop, in their order: peaks of the flux, and rises in single
   * bands that are neither theirs nor a greater one's.
   */
  private settle(hop: number, last = false): void {
    const [from, until] = [this.centre(hop - 1), last ? Infinity : this.centre(hop)];
    const end = last ? this.centre(this.hop - END) : Infinity;
    const hidden = this.risen.filter(
      ({ t }) => t * ANALYSIS_RATE < end && !this.peaked.some(({ at }) => Math.abs(at / ANALYSIS_RATE - t) <= OF_PEAK),
    );
    const apart = hidden
      .filter((rise) => !hidden.some(({ t, decibels }) => decibels > rise.decibels && Math.abs(t - rise.t) <= ONE_RISE))
      .map(({ t }) => this.candidate(t));
    const settled = [...this.peaked, ...apart].filter(({ at }) => at >= from && at < until);
    for (const one of settled.sort((a, b) => a.at - b.at)) this.keep(one);
    const kept = until - (ONE_RISE + OF_PEAK) * ANALYSIS_RATE;
    this.peaked = this.peaked.filter(({ at }) => at >= kept);
    this.risen = this.risen.filter(({ t }) => t * ANALYSIS_RATE >= kept);
  }

  /** A hidden attack at a time, beside the peak that hides it. */
  private candidate(t: number): Candidate {
    const nearest = Math.round(t * HOPS_PER_SECOND);
    const beside = t * HOPS_PER_SECOND > nearest ? 1 : -1;
    return { at: Math.round(t * ANALYSIS_RATE), hop: isPeak(this.onset.view(), nearest) ? nearest + beside : nearest };
  }

  private keep({ at, hop }: Candidate): void {
    // To a 65536th of a second, a sample or less: much smaller once compressed.
    this.attacks.push(Math.round((this.start + at / ANALYSIS_RATE) * 65536) / 65536);
    this.attackHops.push(hop);
    if (prominence(this.onset.view(), hop) >= LEAST_OVER)
      takeAttackSpectra(
        this.buffer.subarray(0, this.filled),
        at - this.base,
        this.spectra,
        ((this.attacks.length - 1) % WAITING) * ATTACK_SPECTRUM_BYTES,
      );
  }

  /**
   * The sample at which the attack begins: within 25 ms before and half a window
   * after the flux peak, the 1.5 ms slot whose energy rises most over the mean of the 6 ms before
   * it; from there back to where the rise begins.
   */
  private refine(hop: number): number {
    const slot = Math.round(ANALYSIS_RATE * 0.0015);
    const centre = this.centre(hop);
    const from = Math.max(this.base, 0, centre - Math.round(ANALYSIS_RATE * 0.025));
    const to = Math.min(this.base + this.filled, centre + WINDOW / 2);
    const count = Math.floor((to - from) / slot);
    const energy = new Float64Array(Math.max(0, count));
    for (let s = 0; s < count; s++) {
      let sum = 0;
      let last = this.buffer[from - this.base + s * slot]!;
      for (let i = 1; i < slot; i++) {
        // First difference: weighs the click of an attack above a bass that rings through it.
        const now = this.buffer[from - this.base + s * slot + i]!;
        sum += now * now * 0.1 + (now - last) * (now - last);
        last = now;
      }
      energy[s] = sum / slot;
    }
    let best = -1;
    let at = Math.min(count - 1, Math.floor((centre - from) / slot));
    for (let s = 1; s < count; s++) {
      let before = 0;
      const back = Math.min(4, s);
      for (let k = 1; k <= back; k++) before += energy[s - k]!;
      const rise = (energy[s]! - before / back) / Math.sqrt(before / back + 1e-9);
      if (rise > best) {
        best = rise;
        at = s;
      }
    }
    if (count <= 0) return centre;
    // A soft attack began before its steepest slot: back to where a twentieth of the rise is made.
    let base = 0;
    for (let s = Math.max(0, at - 14); s < Math.max(1, at - 6); s++) base = Math.max(base, energy[s]!);
    const begun = base + 0.05 * (energy[at]! - base);
    for (let k = 0; k < 5 && at > 0 && energy[at - 1]! > begun; k++) at--;
    return from + at * slot;
  }

  /** Classifies the candidates up to a hop, whose surroundings are known by now. */
  private tellApart(until: number): void {
    for (
      let i = this.kinds.length / SOUND_CLASSES.length;
      i < this.attacks.length && this.attackHops.at(i) <= until;
      i++
    ) {
      const sound = {
        rate: HOPS_PER_SECOND,
        start: this.start,
        onset: this.onset.view(),
        bands: this.bands.view(),
        attacks: this.attacks.view(),
        attackHops: this.attackHops.view(),
      };
      if (prominence(sound.onset, this.attackHops.at(i)) < LEAST_OVER) {
        this.kinds.put(UNTOLD);
        continue;
      }
      const slot = (i % WAITING) * ATTACK_SPECTRUM_BYTES;
      attackFeatures(
        sound,
        this.spectra.subarray(slot, slot + ATTACK_SPECTRUM_BYTES),
        this.crests,
        i,
        this.louder,
        this.features,
      );
      this.kinds.put(this.tell(this.features, i));
    }
  }

  /** The signals so far; may be asked for at any time, and the analysis goes on. */
  finish(): SoundSignals {
    if (this.hop === 0) {
      // Too short for a single hop: heard with silence after it, by another, since more may come.
      const other = SoundAnalyser.resumed(this.state());
      other.hear(new Float32Array(WINDOW));
      return other.finish();
    }
    // Nothing is made up past the end: cutting off to silence would look like an attack.
    const [attacks, kinds, peaked, risen] = [this.attacks.length, this.kinds.length, [...this.peaked], [...this.risen]];
    // Nor is it a hit that a recording ends: what stops clicks, and codecs add some silence.
    for (let h = Math.max(1, this.hop - LATER); h < this.hop - END; h++) this.consider(h);
    this.settle(this.hop - LATER - SETTLED, true);
    this.tellApart(Infinity);
    const signals: SoundSignals = {
      rate: HOPS_PER_SECOND,
      start: this.start,
      onset: this.onset.all(),
      soft: this.softOnsets.all(this.onset.length),
      peaks: this.peaks.all(),
      bands: this.bands.all(),
      chroma: this.chroma.all(),
      attacks: this.attacks.all(),
      attackHops: this.attackHops.all(),
      attackKinds: this.kinds.all(),
    };
    // Candidates near the present end are considered again when more is known.
    this.attacks.cut(attacks);
    this.attackHops.cut(attacks);
    this.kinds.cut(kinds);
    [this.peaked, this.risen] = [peaked, risen];
    return signals;
  }
}

/** Every change a person can make, as a function from montage to montage. */
import { withFamily } from './families.ts';
import { envelopeOf, withEnvelope } from './params.ts';
import { ofAccents } from './words.ts';
import { everyUse, mapUses, unshared } from './uses.ts';
import type {
  Accent,
  Bed,
  Clip,
  EffectUse,
  Envelope,
  GridEdit,
  HandPlacement,
  Hit,
  HitKind,
  HitState,
  Montage,
  NamedFamily,
  Override,
  Param,
  Point,
  Rule,
  Settings,
  SoundExample,
  Source,
  Title,
  Watch,
} from './types.ts';

export type Edit = (montage: Montage) => Montage;

const replace = <T extends { id: string }>(list: readonly T[], id: string, change: (item: T) => T): T[] =>
  list.map((item) => (item.id === id ? change(item) : item));

/** The list with one item `by` places later (negative: earlier), no further than its ends. */
function moved<T extends { id: string }>(list: readonly T[], id: string, by: number): readonly T[] {
  const from = list.findIndex((item) => item.id === id);
  const to = Math.min(list.length - 1, Math.max(0, from + by));
  if (from < 0 || from === to) return list;
  const next = [...list];
  next.splice(to, 0, ...next.splice(from, 1));
  return next;
}

/**
 * A still picture: how long it can be shown at the most and is at first, seconds; its frames a second; most lines of a
 * montage that begins with it.
 */
export const STILL = { seconds: 3600, shown: 3, rate: { num: 30, den: 1 }, lines: 1080 } as const;

/** Adds a source at the end of the row, or on the music lane from the start. The first picture sets size and rate. */
export const addSource =
  (source: Source, id: string): Edit =>
  (m) => {
    const sources = [...m.sources, source];
    if (ofAccents(source)) return { ...m, sources };
    if (!source.video || source.role === 'music') {
      return {
        ...m,
        sources,
        music: [...m.music, { id, source: source.id, at: 0, in: 0, out: source.duration, gain: 1 }],
      };
    }
    const { video } = source;
    const scale = source.still ? Math.min(1, STILL.lines / Math.min(video.width, video.height)) : 1;
    const settings: Settings = m.clips.length
      ? m.settings
      : {
          ...m.settings,
          width: even(Math.min(8192, video.width * scale)),
          height: even(Math.min(8192, video.height * scale)),
          timing: { mode: 'constant', rate: video.rate },
        };
    const clip: Clip = {
      id,
      source: source.id,
      in: video.first,
      out: source.still ? STILL.shown : Math.max(video.first + 1e-3, frameEnd(source)),
      fit: 'fit',
    };
    return { ...m, settings, sources, clips: [...m.clips, clip] };
  };

/** Makes what an accent brought along footage, too: its clip comes at the end. */
export const asFootage =
  (id: string, clip: string): Edit =>
  (m) => {
    const source = m.sources.find((one) => one.id === id);
    if (source?.role !== 'overlay') return m;
    return addSource(
      { ...source, role: 'footage' },
      clip,
    )({ ...m, sources: m.sources.filter((one) => one !== source) });
  };

/** Source seconds at which the last frame ends. */
export const frameEnd = ({ video, duration }: Pick<Source, 'video' | 'duration'>): number =>
  video!.variable ? duration : video!.first + (video!.count * video!.rate.den) / video!.rate.num;

/** Down to even, at least 2: H.264 with 4:2:0 colour needs it. */
export const even = (pixels: number): number => Math.max(2, Math.floor(pixels / 2) * 2);

/** Removes a source with everything that shows it. */
export const removeSource =
  (id: string): Edit =>
  (m) => ({
    ...m,
    sources: m.sources.filter((s) => s.id !== id),
    clips: m.clips.filter((c) => c.source !== id),
    music: m.music.filter((i) => i.source !== id),
    hits: m.hits.filter((h) => h.source !== id),
    families: m.families.map((family) => ({
      ...family,
      members: family.members.filter((hit) => !hit.startsWith(`${id}:`)),
    })),
  });

export const updateSource =
  (id: string, change: Partial<Source>): Edit =>
  (m) => ({ ...m, sources: replace(m.sources, id, (s) => ({ ...s, ...change })) });

export const setSettings =
  (change: Partial<Settings>): Edit =>
  (m) => ({ ...m, settings: { ...m.settings, ...change } });

export const setName =
  (name: string): Edit =>
  (m) => ({ ...m, name });

/** Records a decision on a hit, found or already decided. A decision back to `found` is dropped. */
export const decide =
  (hit: Hit, state: HitState): Edit =>
  (m) =>
    decideAll([hit], state)(m);

export const decideAll =
  (hits: readonly Hit[], state: HitState): Edit =>
  (m) => {
    const ids = new Set(hits.map((h) => h.id));
    const rest = m.hits.filter((h) => !ids.has(h.id));
    const wanted =
      state === 'found'
        ? []
        : hits.map((h) => ({ ...h, state: h.state === 'made' && state === 'kept' ? ('made' as const) : state }));
    return { ...m, hits: [...rest, ...wanted].sort((a, b) => a.t - b.t) };
  };

/** Moves a hit to a source time; a found one becomes kept by it. Its evidence keeps the found time. */
export const moveHit =
  (hit: Hit, t: number): Edit =>
  (m) =>
    decideAll([{ ...hit, t }], hit.state === 'made' ? 'made' : 'kept')(m);

/** Says what a hit is; one that is named by itself leaves the family that named it. */
export const setKind =
  (hit: Hit, kind: HitKind): Edit =>
  (m) =>
    decideAll(
      [{ ...hit, kind, kinds: undefined }],
      hit.state === 'made' ? 'made' : 'kept',
    )({
      ...m,
      families: m.families.map((family) =>
        family.kind !== kind && family.members.includes(hit.id)
          ? { ...family, members: family.members.filter((id) => id !== hit.id) }
          : family,
      ),
    });

/** Says when a hit's movement begins or ends; what accents anchored there stretch to. */
export const setSpan =
  (hit: Hit, span: Pick<Hit, 'start' | 'end'>): Edit =>
  (m) =>
    decideAll([{ ...hit, ...span }], hit.state === 'made' ? 'made' : 'kept')(m);

/** Says where in the picture a hit happens, how that moves and what about it is kept; null: nowhere in particular. */
export const setFocus =
  (hit: Hit, focus: Point | null, track?: Hit['track'], around?: Hit['around']): Edit =>
  (m) => {
    const { focus: _, track: __, around: ___, ...rest } = hit;
    const next: Hit = {
      ...rest,
      ...(focus && { focus }),
      ...(focus && track?.length && { track }),
      ...(focus && around && { around }),
    };
    return decideAll([next], hit.state === 'made' ? 'made' : 'kept')(m);
  };

/** The same for what a job found: what was rejected or taken away meanwhile stays so, what was moved stays there. */
export const setFoundFocus =
  (hit: Hit, focus: Point, track?: Hit['track'], around?: Hit['around']): Edit =>
  (m) => {
    const now = m.hits.find(({ id }) => id === hit.id);
    if (now ? now.state === 'rejected' : hit.state !== 'found') return m;
    return setFocus(now ?? hit, focus, track, around)(m);
  };

export const addMark =
  (id: string, source: string, t: number): Edit =>
  (m) => ({
    ...m,
    hits: [
      ...m.hits,
      { id, source, t, kind: 'mark' as const, strength: 1, confidence: 1, evidence: [], state: 'made' as const },
    ].sort((a, b) => a.t - b.t),
  });

export const removeHit =
  (id: string): Edit =>
  (m) => ({ ...m, hits: m.hits.filter((h) => h.id !== id) });

export const setSensitivity =
  (kind: HitKind, value: number): Edit =>
  (m) => ({ ...m, sensitivity: { ...m.sensitivity, [kind]: value } });

export const addAccent =
  (accent: Accent): Edit =>
  (m) => ({ ...m, accents: [...m.accents, accent] });

export const changeAccent =
  (id: string, change: (accent: Accent) => Accent): Edit =>
  (m) => ({ ...m, accents: replace(m.accents, id, change) });

/** A title that comes and goes without an accent. */
function withoutAccent(title: Title, id: string): Title {
  if (title.comesBy !== id && title.goesBy !== id) return title;
  const { comesBy, goesBy, ...rest } = title;
  return {
    ...rest,
    ...(comesBy !== undefined && comesBy !== id && { comesBy }),
    ...(goesBy !== undefined && goesBy !== id && { goesBy }),
  };
}

/** Removes an accent with its beds, what it was laid on by hand, and the rules that have no other, with their overrides. */
export const removeAccent =
  (id: string): Edit =>
  (m) => {
    const left = (rule: Rule): Rule['accents'] => rule.accents.filter(({ accent }) => accent !== id);
    const gone = m.rules.filter((rule) => !left(rule).length).map((rule) => rule.id);
    return gone.reduce<Montage>((doc, rule) => removeRule(rule)(doc), {
      ...m,
      accents: m.accents.filter((a) => a.id !== id),
      // A rule that has others goes on with these.
      rules: m.rules.map((rule) => (left(rule).length ? { ...rule, accents: left(rule) } : rule)),
      byHand: m.byHand.filter((one) => one.accent !== id),
      beds: m.beds.filter((b) => b.accent !== id),
      ...(m.titles && { titles: m.titles.map((title) => withoutAccent(title, id)) }),
    });
  };

/** Changes an effect of an accent, or one in the stack of another effect; null takes it away. */
const deep = (uses: readonly EffectUse[], id: string, change: (use: EffectUse) => EffectUse | null): EffectUse[] =>
  uses.flatMap((use) =>
    use.id === id ? (change(use) ?? []) : use.stack ? { ...use, stack: deep(use.stack, id, change) } : use,
  );

export const changeEffect = (accent: string, effect: string, change: (use: EffectUse) => EffectUse): Edit =>
  changeAccent(accent, (a) => ({ ...a, effects: deep(a.effects, effect, change) }));

/** Changes the envelope of a parameter, whether a generator moves it or not. */
export const changeEnvelope = (
  accent: string,
  effect: string,
  param: string,
  fallback: number,
  change: (envelope: Envelope) => Envelope,
): Edit =>
  changeEffect(accent, effect, (use) => {
    const now = use.params[param] ?? fallback;
    return { ...use, params: { ...use.params, [param]: withEnvelope(now, change(envelopeOf(now))) } };
  });

export const changeParam = (
  accent: string,
  effect: string,
  param: string,
  fallback: number,
  change: (param: Param) => Param,
): Edit =>
  changeEffect(accent, effect, (use) => ({
    ...use,
    params: { ...use.params, [param]: change(use.params[param] ?? fallback) },
  }));

/** Several edits as one. */
export const together =
  (edits: readonly Edit[]): Edit =>
  (m) =>
    edits.reduce((doc, edit) => edit(doc), m);

/** Puts an effect where another one is. */
export const dropEffect = (accent: string, effect: string, onto: string): Edit =>
  changeAccent(accent, (a) => ({
    ...a,
    effects: moved(
      a.effects,
      effect,
      a.effects.findIndex((e) => e.id === onto) - a.effects.findIndex((e) => e.id === effect),
    ),
  }));

/** Adds an effect at the end, or above a shutter that stands there: it blurs what lies above it. */
export const addEffect = (accent: string, use: EffectUse): Edit =>
  changeAccent(accent, (a) => {
    const last =
      a.effects.at(-1)?.effect === SHUTTER && use.effect !== SHUTTER ? a.effects.length - 1 : a.effects.length;
    return { ...a, effects: a.effects.toSpliced(last, 0, use) };
  });
const SHUTTER = 'shutter';

export const removeEffect = (accent: string, effect: string): Edit =>
  changeAccent(accent, (a) => {
    const gone = new Set(everyUse(a.effects.filter(({ id }) => id === effect)).map(({ id }) => id)).add(effect);
    // Effects that share its region go on acting there.
    const kept = mapUses(a.effects, (use) => (gone.has(use.regionOf ?? '') ? unshared(use, a.effects) : use));
    return { ...a, effects: deep(kept, effect, () => null) };
  });

export const moveEffect = (accent: string, effect: string, by: number): Edit =>
  changeAccent(accent, (a) => ({ ...a, effects: moved(a.effects, effect, by) }));

export const addBed =
  (bed: Bed): Edit =>
  (m) => ({ ...m, beds: [...m.beds, bed] });
export const changeBed =
  (id: string, change: Partial<Bed>): Edit =>
  (m) => ({ ...m, beds: replace(m.beds, id, (b) => ({ ...b, ...change })) });
export const removeBed =
  (id: string): Edit =>
  (m) => ({ ...m, beds: m.beds.filter((b) => b.id !== id) });

export const addRule =
  (rule: Rule): Edit =>
  (m) => ({ ...m, rules: [...m.rules, rule] });

export const changeRule =
  (id: string, change: Partial<Rule>): Edit =>
  (m) => ({ ...m, rules: replace(m.rules, id, (r) => ({ ...r, ...change })) });

export const removeRule =
  (id: string): Edit =>
  (m) => ({
    ...m,
    rules: m.rules.filter((r) => r.id !== id),
    overrides: Object.fromEntries(Object.entries(m.overrides).filter(([key]) => !key.startsWith(`${id}|`))),
  });

/** Changes what is set by hand on one placement; an override without content is dropped. */
export const override =
  (key: string, change: Override): Edit =>
  (m) => {
    const next = Object.fromEntries(
      Object.entries({ ...m.overrides[key], ...change }).filter(([, value]) => value !== undefined),
    );
    const { [key]: _, ...rest } = m.overrides;
    return { ...m, overrides: Object.keys(next).length ? { ...rest, [key]: next } : rest };
  };

/** Lays accents on hits by hand. */
export const layByHand =
  (placements: readonly HandPlacement[]): Edit =>
  (m) => ({ ...m, byHand: [...m.byHand, ...placements] });
/** Changes what is set on one; what is undefined is set no more, but intensity and seed, which each has. */
export const changeByHand =
  (id: string, change: Override): Edit =>
  (m) => ({
    ...m,
    byHand: replace(m.byHand, id, ({ nudge, mute, regions, ...one }) => {
      const set = { nudge, mute, regions, ...change };
      return {
        ...one,
        intensity: set.intensity ?? one.intensity,
        seed: set.seed ?? one.seed,
        ...(set.nudge && { nudge: set.nudge }),
        ...(set.mute && { mute: true }),
        ...(set.regions && { regions: set.regions }),
      };
    }),
  });
export const removeByHand =
  (ids: readonly string[]): Edit =>
  (m) => ({ ...m, byHand: m.byHand.filter((one) => !ids.includes(one.id)) });

export const addWatch =
  (watch: Watch): Edit =>
  (m) => ({ ...m, watches: [...m.watches, watch] });
export const updateWatch =
  (id: string, change: Partial<Watch>): Edit =>
  (m) => ({ ...m, watches: replace(m.watches, id, (w) => ({ ...w, ...change })) });
export const removeWatch =
  (id: string): Edit =>
  (m) => ({
    ...m,
    watches: m.watches.filter((w) => w.id !== id),
    rules: m.rules.map((rule) => (rule.signs ? { ...rule, signs: rule.signs.filter((one) => one !== id) } : rule)),
  });

export const addExample =
  (example: SoundExample): Edit =>
  (m) => ({ ...m, examples: [...m.examples, example] });
export const updateExample =
  (id: string, change: Partial<SoundExample>): Edit =>
  (m) => ({ ...m, examples: replace(m.examples, id, (e) => ({ ...e, ...change })) });
export const removeExample =
  (id: string): Edit =>
  (m) => ({ ...m, examples: m.examples.filter((e) => e.id !== id) });

/** Puts a family into the montage, or changes it; its hits leave the families that they were in. */
export const setFamily =
  (family: NamedFamily): Edit =>
  (m) => ({ ...m, families: withFamily(m.families, family) });
export const updateFamily =
  (id: string, change: Partial<NamedFamily>): Edit =>
  (m) => ({ ...m, families: replace(m.families, id, (family) => ({ ...family, ...change })) });
/** Forgets a family; rules that took it take its hits no longer. */
export const removeFamily =
  (id: string): Edit =>
  (m) => ({
    ...m,
    families: m.families.filter((family) => family.id !== id),
    rules: m.rules.map((rule) => ({ ...rule, families: rule.families.filter((one) => one !== id) })),
  });

export const setGrid =
  (source: string, change: Partial<GridEdit>): Edit =>
  (m) => ({ ...m, sources: replace(m.sources, source, (s) => ({ ...s, grid: { ...s.grid, ...change } })) });

/** The decisions made so far no longer teach. */
export const forgetLessons: Edit = (m) => ({ ...m, forgotten: m.hits.map((hit) => hit.id) });

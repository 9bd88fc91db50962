/** Which hits a rule takes: one sieve after another, each in the order of time. */
import { hash, seedOf } from '../base/hash.ts';
import { lowerBound } from '../base/search.ts';
import { familyByHit } from '../document/families.ts';
import { carries, isOfKind, showsSign } from '../document/hits.ts';
import type { Hit, Montage, Rule, Within } from '../document/types.ts';
import type { Occurrence } from '../timeline/occurrences.ts';
import { ON_BEAT } from '../timeline/land.ts';
import { sectionAt, sectionStarts } from '../timeline/sections.ts';
import type { Timeline } from '../timeline/timeline.ts';

/** Whether a rule may take a hit for what it is: of one of its kinds or families, and as strong as it says. */
export const matches = (rule: Rule, hit: Hit, families: Montage['families'] = []): boolean =>
  carries(hit) &&
  hit.strength >= rule.minStrength &&
  hit.strength <= rule.maxStrength &&
  (!rule.loud || (hit.loud !== undefined && hit.loud >= rule.loud.from && hit.loud < rule.loud.to)) &&
  (rule.kinds.some((kind) => isOfKind(hit, kind)) ||
    rule.families.includes(familyByHit(families).get(hit.id)?.id ?? '') ||
    (rule.signs ?? []).some((sign) => showsSign(hit, sign)));

/** What a rule takes that is begun from one hit: its family, the sign that it is an appearance of, or else its kind. */
export function ruleLike(
  hit: Hit,
  { families, watches }: Pick<Montage, 'families' | 'watches'>,
): Pick<Rule, 'kinds' | 'families' | 'signs'> {
  const family = familyByHit(families).get(hit.id);
  if (family && family.state !== 'rejected') return { kinds: [], families: [family.id] };
  const sign = watches.find(({ id }) => showsSign(hit, id));
  return sign ? { kinds: [], families: [], signs: [sign.id] } : { kinds: [hit.kind], families: [] };
}

/** The loudness of these hits, a whole decibel beyond the loudest: a rule takes them all; null where none is known. */
export function loudnessOf(hits: readonly Hit[]): Within | null {
  const known = hits.flatMap(({ loud }) => loud ?? []);
  if (!known.length) return null;
  const [least, most] = known.reduce(
    ([a, b], loud) => [Math.min(a, loud), Math.max(b, loud)] as const,
    [Infinity, -Infinity],
  );
  return { from: Math.floor(least), to: Math.floor(most) + 1 };
}

/** What is asked of hits together, found once for all rules. */
export interface Company {
  /** Place of each hit in its burst, from 0 on, and whether it is the last. */
  readonly inBurst: ReadonlyMap<string, { readonly place: number; readonly last: boolean }>;
  /** Output frames of kept beats, ascending, and the place of each in its bar, from 1 on; 0 where no bar is known. */
  readonly beats: readonly number[];
  readonly ofBar: readonly number[];
  /** Output frames on which sections begin. */
  readonly sections: readonly number[];
}

const companies = new WeakMap<readonly Occurrence[], { readonly hits: readonly Hit[]; readonly company: Company }>();

/** The same as long as the hits and where they are shown are. */
export function companyOf(hits: readonly Hit[], shown: readonly Occurrence[]): Company {
  const known = companies.get(shown);
  if (known?.hits === hits) return known.company;
  const company = companyAnew(hits, shown);
  companies.set(shown, { hits, company });
  return company;
}

function companyAnew(hits: readonly Hit[], shown: readonly Occurrence[]): Company {
  const bursts = new Map<string, Hit[]>();
  for (const hit of hits) {
    if (!hit.burst || !carries(hit)) continue;
    const members = bursts.get(hit.burst);
    if (members) members.push(hit);
    else bursts.set(hit.burst, [hit]);
  }
  const inBurst = new Map<string, { place: number; last: boolean }>();
  for (const members of bursts.values())
    members
      .sort((a, b) => a.t - b.t)
      .forEach((hit, place) => inBurst.set(hit.id, { place, last: place === members.length - 1 }));
  const beats = shown.filter(({ hit }) => hit.kind === 'beat' && carries(hit));
  let place = 0;
  const ofBar = beats.map(({ hit }) => (place = hit.strength === 1 ? 1 : place && place + 1));
  return {
    inBurst,
    beats: beats.map(({ frame }) => frame),
    ofBar,
    sections: sectionStarts(shown.filter(({ hit }) => carries(hit))),
  };
}

/** Which beat of its bar a frame lies on; 0 where the bar is not known, null where it lies on none. */
function beatAt({ beats, ofBar }: Company, frame: number, fps: number): number | null {
  const after = lowerBound(beats, frame, (at) => at);
  let best: number | null = null;
  for (const i of [after - 1, after])
    if (beats[i] !== undefined && (best === null || Math.abs(beats[i] - frame) < Math.abs(beats[best]! - frame)))
      best = i;
  return best !== null && Math.abs(beats[best]! - frame) <= ON_BEAT * fps + 1e-6 ? ofBar[best]! : null;
}

/**
 * The hits that a rule takes, by frame. Kind, strength, burst, clip, time and beat are asked of each by itself; then
 * those too near to the one before go, of the rest every so-many-th stays, and of these as many as chance will have.
 */
export function taken(
  rule: Rule,
  shown: readonly Occurrence[],
  montage: Pick<Montage, 'families'>,
  line: Timeline,
  company: Company,
): Occurrence[] {
  const inBurst = ({ id, burst }: Hit): boolean => {
    const member = burst && rule.burst !== 'each' ? company.inBurst.get(id) : undefined;
    if (!member) return true;
    if (rule.burst === 'nth') return member.place % rule.burstEvery === 0;
    return rule.burst === 'first' ? member.place === 0 : member.last;
  };
  const inPlace = (frame: number): boolean => {
    const clip = rule.clips.length ? line.spanAt(frame)?.clip : undefined;
    if (rule.clips.length && !(clip && rule.clips.some((id) => id === clip.id || id === clip.lineage))) return false;
    if (rule.sections?.length && !rule.sections.includes(sectionAt(company.sections, frame))) return false;
    const t = line.timeOf(frame);
    return !rule.ranges.length || rule.ranges.some(({ from, to }) => t >= from - 1e-6 && t < to - 1e-6);
  };
  const onBeat = (frame: number): boolean => {
    if (rule.beat === 'any') return true;
    const at = beatAt(company, frame, line.fps);
    return rule.beat === 'on' ? at !== null : rule.beat === 'off' ? at === null : at === Number(rule.beat);
  };
  let last = -Infinity;
  let count = 0;
  return shown.filter(({ hit, frame, key }) => {
    if (!matches(rule, hit, montage.families) || !inBurst(hit) || !inPlace(frame) || !onBeat(frame)) return false;
    if (rule.gap > 0) {
      const t = line.timeOf(frame);
      if (t - last < rule.gap - 1e-6) return false;
      last = t;
    }
    const place = count++ - rule.phase;
    if (place < 0 || place % rule.every !== 0) return false;
    return rule.chance >= 1 || hash(rule.seed, seedOf(key), 77) / 2 ** 32 < rule.chance;
  });
}

/** Which of a rule's accents lies on a hit: its place among them, for the so-many-th hit taken. */
export function pickOf({ accents, pick, seed }: Rule, i: number, key: string): number {
  if (accents.length === 1) return 0;
  if (pick === 'turn') return i % accents.length;
  const all = accents.reduce((sum, { weight }) => sum + weight, 0);
  let drawn = (hash(seed, seedOf(key), 31) / 2 ** 32) * all;
  const at = accents.findIndex(({ weight }) => (drawn -= weight) < 0);
  return at < 0 ? 0 : at;
}

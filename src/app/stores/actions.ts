/** What commands and buttons do, in the words of the montage. */
import { counted } from '../parts/counted.ts';
import type { Occurrence } from '../../core/timeline/occurrences.ts';
import { nanoid } from 'nanoid';
import { fromByteArray } from 'base64-js';
import {
  addExample,
  addMark,
  addRule,
  decide,
  decideAll,
  moveHit,
  setSpan,
  removeAccent,
  removeHit,
  setKind,
} from '../../core/document/edits.ts';
import { carries } from '../../core/document/hits.ts';
import { matches, ruleLike } from '../../core/accents/selection.ts';
import { exampleFrom, LIKE_ENOUGH } from '../../core/finding/likeness/likeness.ts';
import {
  DEFAULT_RULE,
  type Accent,
  type Content,
  type HitKind,
  type HitState,
  type Montage,
  type Rule,
} from '../../core/document/types.ts';
import type { SoundSignals } from '../../core/finding/signals/types.ts';
import { sentence } from '../../engine/index.ts';
import { timecode } from '../../core/base/time.ts';
import { musicSourceTime } from '../../core/timeline/music.ts';
import { kindName } from '../parts/kinds.ts';
import { derivedNow } from './derived.ts';
import { randomSeed } from '../parts/seed.ts';
import { useMedia } from './media.ts';
import { edit, useMontage } from './montage.ts';
import { stopPlaying } from './player.ts';
import { notice, useView } from './view.ts';

export function seek(frame: number): void {
  const derived = derivedNow();
  if (!derived) return;
  stopPlaying();
  useView.setState({ playhead: Math.min(Math.max(0, Math.round(frame)), Math.max(0, derived.line.count - 1)) });
}

export const step = (frames: number): void => seek(useView.getState().playhead + frames);

export function choose(occurrence: Occurrence): void {
  const { playing, looping } = useView.getState();
  if (playing && !looping) stopPlaying();
  useView.setState({ chosen: occurrence.key, playhead: occurrence.frame });
  reveal(occurrence.frame);
}

/** Moves the landscape so that a frame is in sight. */
export function reveal(frame: number): void {
  const { view } = useView.getState();
  if (!view || (frame >= view[0] && frame <= view[1])) return;
  const half = (view[1] - view[0]) / 2;
  useView.setState({ view: [frame - half, frame + half] });
}

/** Hits in the order that is seen: that of time, or of a sheet that is sorted. */
function inOrder(): readonly Occurrence[] {
  const { shown } = derivedNow() ?? { shown: [] };
  const { order } = useView.getState();
  if (!order) return shown;
  const byKey = new Map(shown.map((o) => [o.key, o]));
  return order.flatMap((key) => byKey.get(key) ?? []);
}

/** Rejected hits are passed over. */
export function chooseNext(direction: 1 | -1): void {
  const { playhead, chosen } = useView.getState();
  const list = inOrder().filter((o) => o.hit.state !== 'rejected' || o.key === chosen);
  const at = list.findIndex((o) => o.key === chosen);
  const next =
    at >= 0 && list[at]!.frame === playhead
      ? list[at + direction]
      : direction > 0
        ? list.find((o) => o.frame > playhead)
        : list.findLast((o) => o.frame < playhead);
  if (next) choose(next);
}

export const chosenNow = (): Occurrence | null => {
  const { chosen } = useView.getState();
  // What is chosen stays so when its kind is hidden.
  return derivedNow()?.everywhere.find((o) => o.key === chosen) ?? null;
};

/** Decides on the chosen hit and goes on to the next undecided one. */
export function decideChosen(state: HitState): void {
  const occurrence = chosenNow();
  if (!occurrence) return;
  if (occurrence.hit.state === 'made' && state === 'rejected') edit(removeHit(occurrence.hit.id));
  else edit(decide(occurrence.hit, state));
  const derived = derivedNow();
  const what = `${kindName(occurrence.hit.kind)} at ${timecode(occurrence.frame, derived!.line.rate)}`;
  const done = { kept: 'Kept', rejected: 'Rejected', found: 'Undecided again', made: 'Kept' }[state];
  const { montage } = useMontage.getState();
  useView.setState({ decided: montage && { text: `${done}: ${what}`, montage } });
  const list = inOrder();
  const at = list.findIndex(({ key }) => key === occurrence.key);
  // Where it left the list, the next in time.
  const rest = at < 0 ? list.filter((o) => o.frame > occurrence.frame) : list.slice(at + 1);
  const next = rest.find((o) => o.hit.state === 'found');
  if (next) choose(next);
}

export function keepAllUndecided(): void {
  const undecided = new Map(
    (derivedNow()?.shown ?? []).filter((o) => o.hit.state === 'found').map((o) => [o.hit.id, o.hit]),
  );
  edit(decideAll([...undecided.values()], 'kept'));
  notice(`${undecided.size} hits kept. Undo takes all of them back.`);
}

/** Moves the chosen hit by output frames, or onto a montage frame. */
export function nudgeChosen(frames: number): void {
  const occurrence = chosenNow();
  if (occurrence) moveChosenTo(occurrence.frame + frames);
}

/** Says that the chosen hit's movement begins or ends at the playhead: what accents tied to it stretch to. */
export function spanChosen(end: 'start' | 'end'): void {
  const occurrence = chosenNow();
  const t = sourceTime(useView.getState().playhead);
  if (!occurrence || !t || t.source !== occurrence.hit.source)
    return notice('Choose a hit of the footage at the playhead first.', 'error');
  if (end === 'start' ? t.t > occurrence.hit.t : t.t < occurrence.hit.t)
    return notice(end === 'start' ? 'A movement begins before its hit.' : 'A movement ends after its hit.', 'error');
  edit(setSpan(occurrence.hit, { [end]: t.t }));
  notice(end === 'start' ? 'The movement begins here.' : 'The movement ends here.');
}

export function moveChosenTo(frame: number): void {
  const derived = derivedNow();
  const occurrence = chosenNow();
  if (!derived || !occurrence || occurrence.hit.kind === 'join') return;
  const t = sourceTime(frame);
  if (!t || t.source !== occurrence.hit.source) {
    // Hits of the music lane have no frames of their own: they move in time.
    const shift = derived.line.timeOf(frame) - derived.line.timeOf(occurrence.frame);
    if (derived.montage.music.some((item) => item.source === occurrence.hit.source))
      edit(moveHit(occurrence.hit, occurrence.hit.t + shift));
  } else edit(moveHit(occurrence.hit, t.t));
  // A decision keeps the id of the find it was made on.
  const moved = derivedNow()?.everywhere.find((o) => o.key === occurrence.key);
  if (moved) choose(moved);
}

/** The source and time that a montage frame shows. */
function sourceTime(frame: number): { source: string; t: number } | null {
  const derived = derivedNow();
  const span = derived?.line.spanAt(frame);
  const times = span && derived?.media.get(span.clip.source);
  return derived && span && times
    ? { source: span.clip.source, t: times.timeOf(derived.line.sourceFrame(span, frame)) }
    : null;
}

/** Source seconds that a source shows or plays at a montage frame; null where it does not. */
export function sourceTimeAt(source: string, frame: number): number | null {
  const derived = derivedNow();
  if (!derived) return null;
  const shown = sourceTime(frame);
  if (shown?.source === source) return shown.t;
  const t = derived.line.timeOf(frame);
  for (const item of derived.montage.music) {
    const heard = item.source === source ? musicSourceTime(item, t) : null;
    if (heard !== null) return heard;
  }
  return null;
}

/** Takes the chosen hit, or the seconds given, as an example: all sounds like it become hits. */
export function seekLikeChosen(): void {
  const occurrence = chosenNow();
  if (!occurrence || occurrence.hit.kind === 'join')
    return notice('Choose a hit whose sound is to be found again.', 'error');
  const { audioT, t, source, kind } = occurrence.hit;
  // Of a hit set by hand or only seen, the attack nearby.
  seekLike(
    source,
    Math.max(0, audioT === undefined ? t - 0.08 : audioT - 0.02),
    (audioT ?? t) + EXAMPLE_LENGTH,
    `${kindName(kind)} at ${t.toFixed(1)} s`,
  );
}

/** Seconds after an attack that belong to an example cut from a hit. */
const EXAMPLE_LENGTH = 0.2;

/** Looks for all that sounds like a stretch of the montage, in its footage or, where that is silent, in its music. Montage seconds. */
export function seekLikeBetween(from: number, to: number): void {
  const derived = derivedNow();
  if (!derived) return;
  const { signals } = useMedia.getState();
  const heard = (source: string): boolean => Object.keys(signals[source]?.sounds ?? {}).length > 0;
  const span = derived.line.spanAt(derived.line.frameAt(from));
  const { line } = derived;
  const item = derived.montage.music.find((one) => musicSourceTime(one, from) !== null);
  const name = `stretch at ${from.toFixed(1)} s`;
  if (span && heard(span.clip.source))
    seekLike(span.clip.source, line.sourceTime(span, from), line.sourceTime(span, to), name);
  else if (item && heard(item.source)) {
    const begin = musicSourceTime(item, from)!;
    seekLike(item.source, begin, begin + to - from, name);
  } else notice('Nothing is heard there, or it has not been searched yet.', 'error');
}

/** Takes a stretch of a source, in its own seconds, as an example. */
export function seekLike(source: string, from: number, to: number, name: string): void {
  const sounds = Object.values(useMedia.getState().signals[source]?.sounds ?? {});
  // Of several tracks the one on which the attack is strongest.
  const strength = (sound: SoundSignals): number =>
    sound.attacks.reduce(
      (most, t, i) => (t >= from && t <= to ? Math.max(most, sound.onset[sound.attackHops[i]!]!) : most),
      0,
    );
  const sound = [...sounds].sort((a, b) => strength(b) - strength(a))[0];
  if (!sound) return notice('This source has not been searched yet.', 'error');
  try {
    const { rows, lead } = exampleFrom(sound, from, to);
    edit(addExample({ id: nanoid(8), name, rows: fromByteArray(rows), lead, least: LIKE_ENOUGH, only: null }));
    useView.setState({ checkTab: 'Seek' });
  } catch (error) {
    notice(sentence(error), 'error');
  }
}

/** A wrong kind with one key: the kind it is next most likely of, round and round. */
export function nextLikelyKind(): void {
  const occurrence = chosenNow();
  if (!occurrence || occurrence.hit.kind === 'join') return;
  const { hit } = occurrence;
  // The detector's opinion outlives a correction.
  const found = derivedNow()
    ?.found.get(hit.source)
    ?.hits.find((one) => one.id === hit.id);
  const likely = (Object.entries(found?.kinds ?? hit.kinds ?? {}) as [HitKind, number][])
    .sort((a, b) => b[1] - a[1])
    .map(([kind]) => kind);
  // What was found, then what else it may be, likeliest first: a wrong kind is put right with one press.
  const round = [...new Set<HitKind>([found?.kind ?? hit.kind, ...likely, 'shot', 'impact', 'strike'])];
  edit(setKind(hit, round[(round.indexOf(hit.kind) + 1) % round.length]!));
}

export function addHitHere(): void {
  const { playhead } = useView.getState();
  const at = sourceTime(playhead);
  if (!at) return;
  const there = derivedNow()?.everywhere.find((o) => o.frame === playhead && o.hit.kind === 'mark');
  if (there) {
    if (!useView.getState().playing) choose(there);
    return notice('A hit that you set is on this frame already.');
  }
  const id = `mark-${nanoid(8)}`;
  edit(addMark(id, at.source, at.t));
  // Tapped while it plays, it goes on playing: the playhead is what is heard, the device's latency taken off.
  if (useView.getState().playing) return notice(`A hit is set at frame ${playhead}.`);
  const made = derivedNow()?.shown.find((o) => o.hit.id === id);
  if (made) choose(made);
}

const FIRST_OFFERED: Record<Content, readonly HitKind[]> = {
  unsaid: [],
  mixed: [],
  firearms: ['shot'],
  blows: ['impact', 'strike'],
  ball: ['impact', 'strike'],
  drums: ['kick', 'snare'],
};

/** What a rule takes, in words. */
export function wordsOf(
  { kinds, families, signs = [] }: Pick<Rule, 'kinds' | 'families' | 'signs'>,
  montage: Pick<Montage, 'families' | 'watches'>,
): string {
  const named = families.map((id) => {
    const family = montage.families.find((one) => one.id === id);
    return family?.name ? `“${family.name}”` : `the family of ${family ? kindName(family.kind) : 'lost'} hits`;
  });
  const seen = signs.map((id) => `appearances of “${montage.watches.find((one) => one.id === id)?.name ?? 'lost'}”`);
  return [...kinds.map((kind) => `${kindName(kind)} hits`), ...named, ...seen].join(', ') || 'nothing yet';
}

/** A rule for an accent over hits like the one that it was shaped on, else over the kinds of hits that are kept. */
export function spreadAccent(accent: string): Rule {
  const derived = derivedNow();
  const kept = (derived?.everywhere ?? []).filter((o) => carries(o.hit));
  const shapedOn = derived?.everywhere.find((o) => o.key === useView.getState().shapedOn[accent]);
  const kinds = [...new Set(kept.map((o) => o.hit.kind))].filter((kind) => kind !== 'join');
  const footage = kinds.filter((kind) => kind !== 'note' && kind !== 'beat' && kind !== 'cut' && kind !== 'popup');
  // What a person said that happens in the sources comes first, where hits of it were kept.
  const said = (useMontage.getState().montage?.sources ?? []).flatMap(({ content }) => FIRST_OFFERED[content]);
  const first = footage.filter((kind) => said.includes(kind));
  const rule: Rule = {
    ...DEFAULT_RULE,
    id: nanoid(8),
    accents: [{ accent, weight: 1 }],
    kinds: first.length ? first : footage.length ? footage : kinds,
    ...(shapedOn && derived && ruleLike(shapedOn.hit, derived.montage)),
    seed: randomSeed(),
  };
  edit(addRule(rule));
  if (derived) {
    const why = shapedOn ? ', like the hit that the accent was shaped on' : '';
    const any = kept.some(({ hit }) => matches(rule, hit, derived.montage.families));
    notice(`The rule takes ${wordsOf(rule, derived.montage)}${why}.${any ? '' : ' None of them is kept yet.'}`);
  }
  return rule;
}

/** Deletes an accent, and says what goes with it. */
export function deleteAccent({ id, name }: Pick<Accent, 'id' | 'name'>): void {
  const { montage } = useMontage.getState();
  const count = (n: number, what: string): string[] => (n ? [counted(n, what)] : []);
  const along = [
    ...count(montage?.rules.filter(({ accents }) => accents.every(({ accent }) => accent === id)).length ?? 0, 'rule'),
    ...count(montage?.beds.filter((bed) => bed.accent === id).length ?? 0, 'bed'),
  ];
  edit(removeAccent(id));
  notice(`${name} is deleted${along.length ? ` with its ${along.join(' and ')}` : ''}. Undo brings it back.`);
}

/** Every command with its words and keys: the shortcut sheet, the finder and the keyboard read this list. */
import { flushSync } from 'react-dom';
import {
  addHitHere,
  chooseNext,
  decideChosen,
  keepAllUndecided,
  nextLikelyKind,
  nudgeChosen,
  seekLikeChosen,
  spanChosen,
  spreadAccent,
  step,
} from './actions.ts';
import { addEffect, decideAll } from '../../core/document/edits.ts';
import { EFFECT_LIST } from '../../effects/index.ts';
import { boundView, wholeView, zoomView } from '../landscape/geometry.ts';
import { newUse } from '../parts/new-use.ts';
import { STATIONS } from '../parts/stations.ts';
import { derivedNow } from './derived.ts';
import { findInSources } from './finding.ts';
import { clearFocus, followFocus, proposeFocus, withoutFocus } from './focus.ts';
import { goTo } from './navigation.ts';
import { saveProject } from './opening.ts';
import { currentFamily, hearFamily, loopClearest, nowShown } from './families.ts';
import { answerCurrent, seekMore } from './family-answers.ts';
import { edit, useMontage } from './montage.ts';
import { changePlacements, layHere } from './laying.ts';
import { retune, togglePlaying } from './player.ts';
import { cutHere, trimHere } from './row.ts';
import { CHECK_TABS, notice, usePreferences, useView } from './view.ts';

export interface Command {
  readonly id: string;
  readonly name: string;
  /** In the notation of react-hotkeys-hook; empty for none. What a person set instead is in keys.ts. */
  readonly keys: string;
  /** Other words that it is looked for by. */
  readonly also?: string;
  /** Stations in which its keys act; all where absent. By its name it can always be called. */
  readonly stations?: readonly string[];
  run(): void;
}

const bigStep = (): number => usePreferences.getState().bigStep;

function zoomLandscape(factor: number): void {
  const count = derivedNow()?.line.count ?? 0;
  const { view, playhead } = useView.getState();
  const now = view ? boundView(view, count) : wholeView(count);
  useView.setState({ view: zoomView(now, factor, playhead, count) });
}

function proposeAll(): void {
  const derived = derivedNow();
  const hits = derived ? withoutFocus(derived) : [];
  if (hits.length) void proposeFocus(hits);
  else notice('All kept hits have a focus.');
}

function muteHere(): void {
  const { chosen } = useView.getState();
  const here = derivedNow()?.planner.placements.filter((p) => p.occurrence.key === chosen) ?? [];
  if (!here.length) return notice('Nothing lies on the chosen hit.', 'error');
  const all = here.every(({ muted }) => muted);
  changePlacements(here, () => ({ mute: all ? undefined : true }));
}

/** What decides on a hit, where it is seen. */
const CHECKING = ['check'];
/** What changes the row of clips. */
const ROW = ['bring-in'];

export const COMMANDS: readonly Command[] = [
  { id: 'next-hit', name: 'Next hit', keys: 'down', run: () => chooseNext(1) },
  { id: 'earlier-hit', name: 'Earlier hit', keys: 'up', run: () => chooseNext(-1) },
  {
    id: 'recorded',
    name: 'Show clips at their recorded speed',
    also: 'compare unslowed without ramps slow motion off',
    keys: 't',
    run: () => void import('./recorded.ts').then(({ toggleRecorded }) => toggleRecorded()),
  },
  { id: 'frame-on', name: 'One frame on', keys: 'right', run: () => step(1) },
  { id: 'frame-back', name: 'One frame back', keys: 'left', run: () => step(-1) },
  { id: 'step-on', name: 'Larger step on', keys: 'shift+right', run: () => step(bigStep()) },
  { id: 'step-back', name: 'Larger step back', keys: 'shift+left', run: () => step(-bigStep()) },
  {
    id: 'keep',
    also: 'accept confirm yes',
    name: 'Keep hit and go on',
    keys: 'k',
    stations: CHECKING,
    run: () => decideChosen('kept'),
  },
  {
    id: 'reject',
    also: 'delete remove no discard',
    name: 'Reject hit and go on',
    keys: 'r',
    stations: CHECKING,
    run: () => decideChosen('rejected'),
  },
  {
    id: 'keep-family',
    name: 'Keep all hits of this sound',
    keys: 'shift+k',
    stations: CHECKING,
    run: () => answerCurrent('kept'),
  },
  {
    id: 'reject-family',
    name: 'Reject all hits of this sound',
    keys: 'shift+r',
    stations: CHECKING,
    run: () => answerCurrent('rejected'),
  },
  {
    id: 'hear-family',
    name: 'Hear all hits of this sound',
    keys: 'shift+l',
    stations: CHECKING,
    run: () => hearFamily(currentFamily(nowShown())),
  },
  {
    id: 'loop-family',
    name: 'Loop the clearest hit of this sound',
    keys: 'shift+o',
    stations: CHECKING,
    run: () => loopClearest(currentFamily(nowShown())),
  },
  {
    id: 'more-of-family',
    name: 'Look for more of this sound',
    keys: 'shift+m',
    stations: CHECKING,
    run: () => seekMore(currentFamily(nowShown())),
  },
  {
    id: 'name-family',
    name: 'Name this sound',
    keys: 'shift+n',
    stations: CHECKING,
    run: () => {
      // At once: the next key is the first letter of the name.
      flushSync(() => useView.setState({ checkTab: 'Families' }));
      document.querySelector<HTMLElement>('[data-family-name]')?.focus();
    },
  },
  {
    id: 'undecide',
    also: 'reset',
    name: 'Leave hit undecided',
    keys: 'u',
    stations: CHECKING,
    run: () => decideChosen('found'),
  },
  {
    id: 'nudge-on',
    also: 'move later shift',
    name: 'Move hit one frame on',
    keys: 'alt+right',
    stations: CHECKING,
    run: () => nudgeChosen(1),
  },
  {
    id: 'nudge-back',
    also: 'move earlier shift',
    name: 'Move hit one frame back',
    keys: 'alt+left',
    stations: CHECKING,
    run: () => nudgeChosen(-1),
  },
  { id: 'accent-here', also: 'place apply put effect', name: 'Lay this accent on the hit', keys: 'a', run: layHere },
  { id: 'add-hit', also: 'marker mark tap', name: 'Add a hit here', keys: 'h', run: addHitHere },
  {
    id: 'begins-here',
    name: 'Movement of the hit begins here',
    keys: 'shift+b',
    run: () => spanChosen('start'),
  },
  {
    id: 'ends-here',
    name: 'Movement of the hit ends here',
    keys: 'shift+e',
    run: () => spanChosen('end'),
  },
  {
    id: 'set-focus',
    also: 'point centre target',
    name: 'Set the focus of the hit on the picture',
    keys: 'f',
    stations: CHECKING,
    run: () => useView.setState({ drawing: 'focus' }),
  },
  { id: 'next-kind', name: 'Next likely kind of the hit', keys: 'g', stations: CHECKING, run: nextLikelyKind },
  {
    id: 'seek-like',
    also: 'similar same sound',
    name: 'Find all sounds like this hit',
    keys: 'l',
    stations: CHECKING,
    run: seekLikeChosen,
  },
  {
    id: 'clip-begins',
    also: 'trim in point start',
    name: 'Clip begins here',
    keys: 'b',
    stations: ROW,
    run: () => trimHere('in'),
  },
  {
    id: 'clip-ends',
    also: 'trim out point end',
    name: 'Clip ends here',
    keys: 'e',
    stations: ROW,
    run: () => trimHere('out'),
  },
  { id: 'clip-cut', also: 'split razor blade', name: 'Cut the clip here', keys: 'c', stations: ROW, run: cutHere },
  { id: 'play', also: 'stop start space preview', name: 'Play or pause', keys: 'space', run: togglePlaying },
  {
    id: 'loop',
    also: 'repeat cycle',
    name: 'Loop around the hit',
    keys: 'o',
    run: () => retune({ looping: !useView.getState().looping }),
  },
  { id: 'speed-full', name: 'Full speed', keys: '1', run: () => retune({ speed: 1 }) },
  { id: 'speed-half', also: 'slow', name: 'Half speed', keys: '2', run: () => retune({ speed: 0.5 }) },
  { id: 'speed-quarter', also: 'slow', name: 'Quarter speed', keys: '4', run: () => retune({ speed: 0.25 }) },
  { id: 'undo', also: 'back', name: 'Undo', keys: 'mod+z', run: () => useMontage.getState().undo() },
  { id: 'redo', also: 'forward again', name: 'Redo', keys: 'mod+shift+z', run: () => useMontage.getState().redo() },
  ...STATIONS.map(({ id, name }): Command => ({
    id: `go-${id}`,
    name: `Go to ${name}`,
    also: 'station stage panel open',
    keys: '',
    run: () => goTo(useMontage.getState().montage!.id, id),
  })),
  { id: 'find-hits', name: 'Find hits', also: 'analyse detect search scan', keys: '', run: () => void findInSources() },
  { id: 'keep-all', name: 'Keep all undecided hits', also: 'accept every', keys: '', run: keepAllUndecided },
  {
    id: 'reject-all',
    name: 'Reject all undecided hits',
    also: 'delete remove every',
    keys: '',
    run: () =>
      edit(
        decideAll(
          (derivedNow()?.shown ?? []).filter(({ hit }) => hit.state === 'found').map(({ hit }) => hit),
          'rejected',
        ),
      ),
  },
  {
    id: 'propose-focus',
    name: 'Propose the focus of all kept hits',
    also: 'point centre target',
    keys: '',
    run: proposeAll,
  },
  {
    id: 'follow-focus',
    name: 'Follow the focus of the hit',
    also: 'track motion',
    keys: '',
    run: () => void followFocus(),
  },
  { id: 'clear-focus', name: 'Clear the focus of the hit', also: 'remove point', keys: '', run: clearFocus },
  {
    id: 'mute-here',
    name: 'Mute what lies on the hit',
    also: 'disable off hide accents',
    keys: 'm',
    run: muteHere,
  },
  { id: 'closer', name: 'Zoom the landscape in', also: 'zoom in timeline', keys: '', run: () => zoomLandscape(0.5) },
  { id: 'wider', name: 'Zoom the landscape out', also: 'zoom out timeline', keys: '', run: () => zoomLandscape(2) },
  {
    id: 'all',
    name: 'Zoom the landscape to all of it',
    also: 'zoom fit whole timeline',
    keys: '',
    run: () => useView.setState({ view: null }),
  },
  {
    id: 'line',
    name: 'Line of comparison',
    also: 'before after split wipe',
    keys: '',
    run: () => useView.setState(({ line }) => ({ line: line === null ? 0.5 : null })),
  },
  {
    id: 'alone',
    name: 'Picture alone, or with everything',
    also: 'full screen window big large view',
    keys: 'p',
    run: () => useView.setState(({ alone }) => ({ alone: !alone })),
  },
  {
    id: 'dim',
    name: 'Dim the pictures, or show them as they are',
    also: 'flash strobe photosensitive epilepsy dark safe',
    keys: '',
    run: () => usePreferences.setState(({ dimmed }) => ({ dimmed: !dimmed })),
  },
  {
    id: 'save-file',
    name: 'Save to a project file',
    also: 'download export store akmeon',
    keys: '',
    run: () => saveProject(useMontage.getState().montage!),
  },
  ...CHECK_TABS.map((tab): Command => ({
    id: `tab-${tab}`,
    name: `Check: ${tab}`,
    also: 'panel tab',
    keys: '',
    run: () => {
      useView.setState({ checkTab: tab });
      goTo(useMontage.getState().montage!.id, 'check');
    },
  })),
  {
    id: 'find-command',
    also: 'search help shortcuts keys',
    name: 'Find a command',
    keys: 'mod+j',
    run: () => useView.setState({ commandsOpen: true }),
  },
];

/** Commands about what the montage holds now: its accents, and the effects. */
export function commandsNow(): Command[] {
  const { montage } = useMontage.getState();
  if (!montage) return [];
  const shape = (id: string): void => {
    useView.setState({ accent: id });
    goTo(montage.id, 'shape');
  };
  const accent = montage.accents.find(({ id }) => id === useView.getState().accent) ?? montage.accents[0];
  return [
    ...montage.accents.flatMap(({ id, name }): Command[] => [
      { id: `shape-${id}`, name: `Shape ${name}`, also: 'accent edit', keys: '', run: () => shape(id) },
      {
        id: `lay-${id}`,
        name: `Lay ${name} on the hit`,
        also: 'accent place apply put',
        keys: '',
        run: () => {
          useView.setState({ accent: id });
          layHere();
        },
      },
      {
        id: `rule-${id}`,
        name: `Another rule for ${name}`,
        also: 'accent spread',
        keys: '',
        run: () => void spreadAccent(id),
      },
    ]),
    ...(accent
      ? EFFECT_LIST.map(({ id, name, also = '', doc }): Command => ({
          id: `effect-${id}`,
          name: `Add ${name} to ${accent.name}`,
          also: `effect ${also} ${doc}`,
          keys: '',
          run: () => {
            edit(addEffect(accent.id, newUse(accent, id)));
            shape(accent.id);
          },
        }))
      : []),
  ];
}

/** How well a command answers what was typed: all words must be in its name or among its other words. */
export function answers({ name, also = '' }: Command, typed: string): number {
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
  const [own, other] = [name.toLowerCase(), also.toLowerCase()];
  if (!words.every((word) => own.includes(word) || other.includes(word))) return 0;
  return own.startsWith(typed.toLowerCase()) ? 3 : words.every((word) => own.includes(word)) ? 2 : 1;
}

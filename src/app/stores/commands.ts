/** Every command with its words and keys: the shortcut sheet, the finder and the keyboard read this list. */
import { flushSync } from 'react-dom';
import {
  addHitHere,
  chooseNext,
  decideChosen,
  nextLikelyKind,
  nudgeChosen,
  seekLikeChosen,
  spanChosen,
  step,
} from './actions.ts';
import { currentFamily, hearFamily, loopClearest, nowShown } from './families.ts';
import { answerCurrent, seekMore } from './family-answers.ts';
import { useMontage } from './montage.ts';
import { retune, togglePlaying } from './player.ts';
import { cutHere, trimHere } from './row.ts';
import { usePreferences, useView } from './view.ts';

export interface Command {
  readonly id: string;
  readonly name: string;
  /** In the notation of react-hotkeys-hook; empty for none. */
  readonly keys: string;
  /** Stations in which its keys act; all where absent. By its name it can always be called. */
  readonly stations?: readonly string[];
  run(): void;
}

const bigStep = (): number => usePreferences.getState().bigStep;

/** What decides on a hit, where it is seen. */
const CHECKING = ['check'];
/** What changes the row of clips. */
const ROW = ['bring-in'];

export const COMMANDS: readonly Command[] = [
  { id: 'next-hit', name: 'Next hit', keys: 'down', run: () => chooseNext(1) },
  { id: 'earlier-hit', name: 'Earlier hit', keys: 'up', run: () => chooseNext(-1) },
  { id: 'frame-on', name: 'One frame on', keys: 'right', run: () => step(1) },
  { id: 'frame-back', name: 'One frame back', keys: 'left', run: () => step(-1) },
  { id: 'step-on', name: 'Larger step on', keys: 'shift+right', run: () => step(bigStep()) },
  { id: 'step-back', name: 'Larger step back', keys: 'shift+left', run: () => step(-bigStep()) },
  { id: 'keep', name: 'Keep hit and go on', keys: 'k', stations: CHECKING, run: () => decideChosen('kept') },
  { id: 'reject', name: 'Reject hit and go on', keys: 'r', stations: CHECKING, run: () => decideChosen('rejected') },
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
  { id: 'undecide', name: 'Leave hit undecided', keys: 'u', stations: CHECKING, run: () => decideChosen('found') },
  { id: 'nudge-on', name: 'Move hit one frame on', keys: 'alt+right', stations: CHECKING, run: () => nudgeChosen(1) },
  {
    id: 'nudge-back',
    name: 'Move hit one frame back',
    keys: 'alt+left',
    stations: CHECKING,
    run: () => nudgeChosen(-1),
  },
  { id: 'add-hit', name: 'Add a hit here', keys: 'h', run: addHitHere },
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
    name: 'Set the focus of the hit on the picture',
    keys: 'f',
    stations: CHECKING,
    run: () => useView.setState({ drawing: 'focus' }),
  },
  { id: 'next-kind', name: 'Next likely kind of the hit', keys: 'g', stations: CHECKING, run: nextLikelyKind },
  { id: 'seek-like', name: 'Find all sounds like this hit', keys: 'l', stations: CHECKING, run: seekLikeChosen },
  { id: 'clip-begins', name: 'Clip begins here', keys: 'b', stations: ROW, run: () => trimHere('in') },
  { id: 'clip-ends', name: 'Clip ends here', keys: 'e', stations: ROW, run: () => trimHere('out') },
  { id: 'clip-cut', name: 'Cut the clip here', keys: 'c', stations: ROW, run: cutHere },
  { id: 'play', name: 'Play or pause', keys: 'space', run: togglePlaying },
  {
    id: 'loop',
    name: 'Loop around the hit',
    keys: 'o',
    run: () => retune({ looping: !useView.getState().looping }),
  },
  { id: 'speed-full', name: 'Full speed', keys: '1', run: () => retune({ speed: 1 }) },
  { id: 'speed-half', name: 'Half speed', keys: '2', run: () => retune({ speed: 0.5 }) },
  { id: 'speed-quarter', name: 'Quarter speed', keys: '4', run: () => retune({ speed: 0.25 }) },
  { id: 'undo', name: 'Undo', keys: 'mod+z', run: () => useMontage.getState().undo() },
  { id: 'redo', name: 'Redo', keys: 'mod+shift+z', run: () => useMontage.getState().redo() },
  { id: 'find-command', name: 'Find a command', keys: 'mod+j', run: () => useView.setState({ commandsOpen: true }) },
];

/** Held, not pressed: shows the montage without its accents. */
export const COMPARE_KEY = 'w';

const KEY_NAMES: Record<string, string> = {
  down: '↓',
  up: '↑',
  left: '←',
  right: '→',
  mod: 'Ctrl',
  shift: 'Shift',
  alt: 'Alt',
  space: 'Space',
};

export const keyLabel = (keys: string): string =>
  keys
    .split('+')
    .map((key) => KEY_NAMES[key] ?? key.toUpperCase())
    .join(' ');

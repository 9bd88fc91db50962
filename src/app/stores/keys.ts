/** Keys of commands: as they came or as a person set them, and how they are written. */
import { COMMANDS, type Command } from './commands.ts';
import { saveText } from './opening.ts';
import { usePreferences } from './view.ts';

/** The keys of a command: as a person set them, else as they came. */
export const keysOf = ({ id, keys }: Pick<Command, 'id' | 'keys'>): string =>
  usePreferences.getState().keys[id] ?? keys;

/** Keys that the browser has for itself: no page is asked. */
const BROWSERS_OWN =
  /^(mod|ctrl|meta)\+(shift\+)?(w|t|n|q|r|l|p|d|h|o|s|f|g|u|[0-9]|tab|[+-])$|^f\d+$|^alt\+(left|right|f4|home|d)$|^(tab|escape|enter)$/;

/** Sets the keys of a command. @returns a sentence where they cannot be had, else null */
export function setKeys(command: Command, keys: string): string | null {
  if (BROWSERS_OWN.test(keys)) return `${keyLabel(keys)} is the browser’s own.`;
  const other = COMMANDS.find((one) => one.id !== command.id && keysOf(one) === keys && sharesStation(one, command));
  if (other) return `${keyLabel(keys)} is “${other.name}” already.`;
  usePreferences.setState((s) => ({ keys: { ...s.keys, [command.id]: keys } }));
  return null;
}

const sharesStation = (a: Command, b: Command): boolean =>
  !a.stations || !b.stations || a.stations.some((station) => b.stations!.includes(station));

export function resetKeys(): void {
  usePreferences.setState({ keys: {} });
}

export const exportKeys = (): void =>
  saveText(
    JSON.stringify(
      Object.fromEntries(COMMANDS.filter(keysOf).map((command) => [command.name, keyLabel(keysOf(command))])),
      null,
      1,
    ),
    'akmeon-keys.json',
  );

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

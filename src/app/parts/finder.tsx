/** The finder of commands, with the keys of each, which can be set there. */
import { useMemo, useState } from 'react';
import {
  Combobox,
  ComboboxInput,
  ComboboxOption,
  ComboboxOptions,
  Dialog,
  DialogPanel,
  DialogTitle,
} from '@headlessui/react';
import { answers, COMMANDS, commandsNow, type Command } from '../stores/commands.ts';
import { COMPARE_KEY, exportKeys, keyLabel, resetKeys, setKeys } from '../stores/keys.ts';
import { usePreferences, useView } from '../stores/view.ts';

/** Most commands that are listed at once. */
const LISTED = 80;

/** Type what you want, press Enter. Every shortcut is shown beside its command, and can be changed there. */
export function Finder() {
  const open = useView((s) => s.commandsOpen);
  const recent = usePreferences((s) => s.recent);
  const changed = usePreferences((s) => s.keys);
  const [query, setQuery] = useState('');
  /** The command whose keys are pressed next. */
  const [setting, setSetting] = useState<Command | null>(null);
  const [refused, setRefused] = useState<string | null>(null);
  const close = (): void => {
    useView.setState({ commandsOpen: false });
    setQuery('');
    setSetting(null);
    setRefused(null);
  };
  const fits = useMemo(() => {
    if (!open) return [];
    const all = [...COMMANDS, ...commandsNow()];
    const last = (id: string): number => (recent.includes(id) ? recent.length - recent.indexOf(id) : 0);
    return query.trim()
      ? all
          .map((command) => ({ command, fit: answers(command, query) }))
          .filter(({ fit }) => fit > 0)
          .sort((a, b) => b.fit - a.fit || last(b.command.id) - last(a.command.id))
          .map(({ command }) => command)
          .slice(0, LISTED)
      : [...all].sort((a, b) => last(b.id) - last(a.id)).slice(0, LISTED);
  }, [open, query, recent]);
  const press = (event: React.KeyboardEvent): void => {
    // One Escape closes all of it, wherever the keyboard is.
    if (!setting && event.key === 'Escape') return close();
    if (!setting || /^(Control|Shift|Alt|Meta)$/.test(event.key)) return;
    event.preventDefault();
    event.stopPropagation();
    if (event.key === 'Escape') return setSetting(null);
    const name = event.key.startsWith('Arrow') ? event.key.slice(5) : event.key === ' ' ? 'space' : event.key;
    const keys = [
      ...(event.ctrlKey || event.metaKey ? ['mod'] : []),
      ...(event.shiftKey ? ['shift'] : []),
      ...(event.altKey ? ['alt'] : []),
      name.toLowerCase(),
    ].join('+');
    const why = setKeys(setting, keys);
    setRefused(why);
    if (!why) setSetting(null);
  };
  return (
    <Dialog open={open} onClose={close} className="fixed inset-0 z-50">
      <div className="fixed inset-0 bg-night/70" aria-hidden />
      <DialogPanel
        className="fixed top-16 left-1/2 w-[520px] -translate-x-1/2 rounded-xl border border-rope bg-deck p-4 shadow-2xl"
        onKeyDownCapture={press}
      >
        <DialogTitle className="caption mb-2">Find a command</DialogTitle>
        <Combobox
          immediate
          onChange={(command: Command | null) => {
            if (setting) return;
            close();
            if (!command) return;
            usePreferences.setState((s) => ({
              recent: [command.id, ...s.recent.filter((id) => id !== command.id)].slice(0, 12),
            }));
            command.run();
          }}
        >
          <ComboboxInput
            autoFocus
            aria-label="Name of the command"
            placeholder="Type what you want to do"
            className="field w-full"
            onChange={(event) => setQuery(event.target.value)}
          />
          <ComboboxOptions static modal={false} className="mt-3 max-h-[430px] overflow-y-auto">
            {fits.map((command) => (
              <ComboboxOption
                key={command.id}
                value={command}
                className="flex cursor-pointer items-center justify-between gap-3 rounded px-2 py-1 data-focus:bg-plank"
              >
                <span className="min-w-0 truncate">{command.name}</span>
                {COMMANDS.includes(command) && (
                  <button
                    tabIndex={-1}
                    className={`mono shrink-0 rounded border px-1.5 text-[12px] ${setting?.id === command.id ? 'border-lamp text-lamp' : 'border-transparent text-fog hover:border-rope'}`}
                    aria-label={`Keys of ${command.name}: ${keyLabel(changed[command.id] ?? command.keys) || 'none'}`}
                    title="Press to set other keys"
                    // The option itself would be called.
                    onMouseDown={(event) => event.stopPropagation()}
                    onPointerDown={(event) => event.stopPropagation()}
                    onClick={(event) => {
                      event.preventDefault();
                      event.stopPropagation();
                      setRefused(null);
                      setSetting(command);
                    }}
                  >
                    {setting?.id === command.id ? 'press keys…' : keyLabel(changed[command.id] ?? command.keys) || '·'}
                  </button>
                )}
              </ComboboxOption>
            ))}
          </ComboboxOptions>
        </Combobox>
        {fits.length === 0 && (
          <p className="px-2 py-1 text-fog">Nothing is called that. Try another word for it, or fewer.</p>
        )}
        {refused && <p className="mt-2 text-ember">{refused}</p>}
        <div className="mt-2 flex items-center gap-2 text-fog">
          <p className="grow">
            Hold <kbd className="mono text-sail">{keyLabel(COMPARE_KEY)}</kbd> to see the montage without its accents.
          </p>
          {Object.keys(changed).length > 0 && (
            <button className="key-quiet" onClick={resetKeys}>
              Reset all keys
            </button>
          )}
          <button className="key-quiet" onClick={exportKeys}>
            Export the keys
          </button>
        </div>
      </DialogPanel>
    </Dialog>
  );
}

/** The keyboard, the sheet of shortcuts and the finder, all from one list. */
import { useEffect, useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import {
  Combobox,
  ComboboxInput,
  ComboboxOption,
  ComboboxOptions,
  Dialog,
  DialogPanel,
  DialogTitle,
} from '@headlessui/react';
import { COMMANDS, COMPARE_KEY, keyLabel, type Command } from '../stores/commands.ts';
import { useView } from '../stores/view.ts';

function Bound({ command }: { command: Command }) {
  useHotkeys(
    command.keys,
    (event) => {
      // Buttons and fields keep the keys that work them.
      const target = event.target as HTMLElement;
      if (command.keys === 'space' && target.closest('button, input, select')) return;
      if (
        target.closest('[role="grid"], [role="slider"], input[type="range"], [role="listbox"]') &&
        /^(up|down|left|right)$/.test(command.keys)
      )
        return;
      if (command.stations && !command.stations.includes(location.pathname.split('/').at(-1)!)) return;
      event.preventDefault();
      command.run();
      // The landscape's own parts are no fields: letters typed on them are commands.
    },
    { enableOnFormTags: ['slider'] },
  );
  return null;
}

export function Shortcuts() {
  useEffect(() => {
    const hold =
      (plain: boolean) =>
      (event: KeyboardEvent): void => {
        if (event.key.toLowerCase() !== COMPARE_KEY || event.ctrlKey || event.metaKey || event.altKey) return;
        if ((event.target as HTMLElement).closest?.('input:not([type="range"]), select, textarea')) return;
        useView.setState({ plain });
      };
    const [down, up] = [hold(true), hold(false)];
    const leave = (): void => useView.setState({ plain: false });
    addEventListener('keydown', down);
    addEventListener('keyup', up);
    addEventListener('blur', leave);
    // A clicked button gives the keyboard back, so that Space plays; one reached with Tab keeps it.
    const giveBack = (event: MouseEvent): void => {
      if (event.detail > 0) (event.target as HTMLElement).closest('button')?.blur();
    };
    // A slider that was dragged gives the arrow keys back to the frames; one reached with Tab keeps them.
    const letGo = (event: PointerEvent): void => {
      const slider = (event.target as HTMLElement).closest?.('input[type="range"]') as HTMLElement | null;
      if (slider) setTimeout(() => slider.blur());
    };
    addEventListener('pointerup', letGo);
    addEventListener('click', giveBack);
    return () => {
      removeEventListener('keydown', down);
      removeEventListener('keyup', up);
      removeEventListener('blur', leave);
      removeEventListener('click', giveBack);
      removeEventListener('pointerup', letGo);
    };
  }, []);
  return (
    <>
      {COMMANDS.filter((c) => c.keys).map((command) => (
        <Bound key={command.id} command={command} />
      ))}
    </>
  );
}

/** Type a command's name and press Enter. Every shortcut is shown beside its command. */
export function Commands() {
  const open = useView((s) => s.commandsOpen);
  const [query, setQuery] = useState('');
  const close = (): void => {
    useView.setState({ commandsOpen: false });
    setQuery('');
  };
  const fits = COMMANDS.filter((c) => c.name.toLowerCase().includes(query.toLowerCase()));
  return (
    <Dialog open={open} onClose={close} className="fixed inset-0 z-50">
      <div className="fixed inset-0 bg-night/70" aria-hidden />
      <DialogPanel className="fixed top-16 left-1/2 w-[440px] -translate-x-1/2 rounded-xl border border-rope bg-deck p-4 shadow-2xl">
        <DialogTitle className="caption mb-2">Find a command</DialogTitle>
        <Combobox
          immediate
          onChange={(command: Command | null) => {
            close();
            command?.run();
          }}
        >
          <ComboboxInput
            autoFocus
            aria-label="Name of the command"
            placeholder="Type a name"
            className="field w-full"
            onChange={(event) => setQuery(event.target.value)}
          />
          <ComboboxOptions static className="mt-3 max-h-[430px] overflow-y-auto">
            {fits.map((command) => (
              <ComboboxOption
                key={command.id}
                value={command}
                className="flex cursor-pointer justify-between rounded px-2 py-1.5 data-focus:bg-plank"
              >
                <span>{command.name}</span>
                <kbd className="mono text-[12px] text-fog">{keyLabel(command.keys)}</kbd>
              </ComboboxOption>
            ))}
          </ComboboxOptions>
        </Combobox>
        <p className="mt-2 text-fog">
          Hold <kbd className="mono text-sail">{keyLabel(COMPARE_KEY)}</kbd> to see the montage without its accents.
        </p>
      </DialogPanel>
    </Dialog>
  );
}

/** The keyboard: keys of all commands, and what is held or pressed beside them. */
import { useEffect } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { COMMANDS, type Command } from '../stores/commands.ts';
import { COMPARE_KEY } from '../stores/keys.ts';
import { usePreferences, useView } from '../stores/view.ts';

function Bound({ command }: { command: Command }) {
  const own = usePreferences((s) => s.keys[command.id]);
  const keys = own ?? command.keys;
  useHotkeys(
    keys,
    (event) => {
      // Buttons and fields keep the keys that work them.
      const target = event.target as HTMLElement;
      if (keys === 'space' && target.closest('button, input, select')) return;
      if (
        target.closest('[role="grid"], [role="slider"], input[type="range"], [role="listbox"]') &&
        /^(up|down|left|right)$/.test(keys)
      )
        return;
      if (command.stations && !command.stations.includes(location.pathname.split('/').at(-1)!)) return;
      event.preventDefault();
      command.run();
      // The landscape's own parts are no fields: letters typed on them are commands.
    },
    { enableOnFormTags: ['slider'], enabled: keys !== '' },
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
    // Out of what waits for a press on the picture, then out of the picture alone.
    const out = (event: KeyboardEvent): void => {
      const { drawing, alone, commandsOpen } = useView.getState();
      if (event.key !== 'Escape' || commandsOpen) return;
      if (drawing) useView.setState({ drawing: null });
      else if (alone) useView.setState({ alone: false });
    };
    addEventListener('keydown', out);
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
      removeEventListener('keydown', out);
      removeEventListener('keydown', down);
      removeEventListener('keyup', up);
      removeEventListener('blur', leave);
      removeEventListener('click', giveBack);
      removeEventListener('pointerup', letGo);
    };
  }, []);
  return (
    <>
      {COMMANDS.map((command) => (
        <Bound key={command.id} command={command} />
      ))}
    </>
  );
}

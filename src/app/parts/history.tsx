/** Undo and redo, by single steps or through a list that says what each step did. */
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/react';
import { ChevronDown, Redo2, Undo2 } from 'lucide-react';
import { changeName } from '../../core/document/change-name.ts';
import type { Montage } from '../../core/document/types.ts';
import { useMontage } from '../stores/montage.ts';

/** Steps that are listed each way. */
const LISTED = 60;

/** What led to each state but the first. */
const named = (states: readonly Montage[]): string[] =>
  states.slice(1).map((state, i) => changeName(states[i]!, state));

export function History() {
  const { montage, past, future, readOnly, undo, redo } = useMontage();
  const last = past.length && montage ? changeName(past.at(-1)!, montage) : null;
  const next = future.length && montage ? changeName(montage, future[0]!) : null;
  return (
    <>
      <Step name="Undo" Icon={Undo2} what={last} left={past.length} onStep={undo} />
      <Step name="Redo" Icon={Redo2} what={next} left={future.length} onStep={redo} />
      <Menu>
        <MenuButton
          className="key-quiet -ml-1 px-0.5"
          aria-label="All steps"
          title="What was done, step by step"
          disabled={readOnly || (!last && !next)}
        >
          <ChevronDown size={14} />
        </MenuButton>
        <MenuItems anchor="bottom end" className="pop max-h-[60vh] w-72">
          <StepList />
        </MenuItems>
      </Menu>
    </>
  );
}

/** One step back or forth, with what it would undo or do again. */
function Step({
  name,
  Icon,
  what,
  left,
  onStep,
}: {
  name: 'Undo' | 'Redo';
  Icon: typeof Undo2;
  what: string | null;
  left: number;
  onStep: () => void;
}) {
  const readOnly = useMontage((s) => s.readOnly);
  return (
    <button
      className="key-quiet"
      aria-label={name}
      title={what ? `${name}: ${what}` : `Nothing to ${name.toLowerCase()}`}
      data-steps={left}
      disabled={!what || readOnly}
      onClick={onStep}
    >
      <Icon size={16} />
    </button>
  );
}

/** The newest step stands on top; those taken back stand above the present one, and are faint. */
function StepList() {
  const { montage, past, future, walk } = useMontage();
  const [before, after] = [past.slice(-LISTED), future.slice(0, LISTED)];
  const names = named([...before, montage!, ...after]);
  const steps = names.map((name, i) => ({ name, by: i + 1 - before.length })).reverse();
  return (
    <>
      {steps.map(({ name, by }) => (
        <MenuItem key={by}>
          <button
            className={`pop-item truncate ${by > 0 ? 'text-fog' : ''} ${by === 0 ? 'font-semibold text-lamp' : ''}`}
            aria-current={by === 0 ? 'step' : undefined}
            title={by === 0 ? 'The montage is here' : by > 0 ? 'Forward to here' : 'Back to here'}
            onClick={() => walk(by)}
          >
            {name}
          </button>
        </MenuItem>
      ))}
      <MenuItem>
        <button className="pop-item text-fog" onClick={() => walk(-before.length)}>
          {past.length > LISTED ? 'Further back' : 'As it was at first'}
        </button>
      </MenuItem>
    </>
  );
}

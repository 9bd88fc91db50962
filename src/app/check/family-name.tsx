/** What a family is called: a kind of the trade, or words of the person's own; choosing one keeps it under that name. */
import { useState } from 'react';
import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from '@headlessui/react';
import { HIT_KINDS, type HitKind } from '../../core/document/types.ts';
import { KIND_COLOURS, kindName } from '../parts/kinds.ts';
import { useDerived } from '../stores/derived.ts';
import { familyName, type ShownFamily } from '../stores/families.ts';
import { answerFamily } from '../stores/family-answers.ts';

/** Kinds that a family can be named after: what a person hears. */
const NAMES = HIT_KINDS.filter((kind) => !['beat', 'drop', 'cut', 'join', 'match', 'mark'].includes(kind));

interface Choice {
  readonly kind: HitKind | null;
  readonly name: string;
}

export function FamilyName({ family, current }: { family: ShownFamily; current: boolean }) {
  const { montage } = useDerived()!;
  const [typed, setTyped] = useState('');
  const wanted = typed.trim().toLowerCase();
  const own = [...new Set(montage.families.map(({ name }) => name))].filter(Boolean);
  const choices: Choice[] = [
    ...own.map((name) => ({ kind: null, name })),
    ...NAMES.map((kind) => ({ kind, name: kindName(kind) })),
  ].filter(({ name }) => name.toLowerCase().includes(wanted));
  const isNew = wanted !== '' && !choices.some(({ name }) => name.toLowerCase() === wanted);
  return (
    <Combobox
      value={null as Choice | null}
      onChange={(choice) => {
        if (!choice) return;
        setTyped('');
        answerFamily(family, 'kept', choice.kind ? { kind: choice.kind, name: '' } : { name: choice.name });
      }}
      onClose={() => setTyped('')}
      immediate
    >
      <ComboboxInput
        className="field min-w-0 grow py-0.5 text-[12px]"
        aria-label={`What these ${family.hits.length} are`}
        data-family-name={current ? '' : undefined}
        maxLength={200}
        displayValue={() => familyName(family)}
        autoComplete="off"
        onFocus={(event) => event.currentTarget.select()}
        onChange={(event) => setTyped(event.currentTarget.value)}
      />
      <ComboboxOptions
        anchor="bottom start"
        className="z-50 max-h-64 w-48 overflow-y-auto rounded-md border border-rope bg-night p-1 text-[13px] empty:invisible"
      >
        {isNew && (
          <ComboboxOption value={{ kind: null, name: typed.trim() }} className={OPTION}>
            call it “{typed.trim()}”
          </ComboboxOption>
        )}
        {choices.map((choice) => (
          <ComboboxOption key={`${choice.kind} ${choice.name}`} value={choice} className={OPTION}>
            {choice.kind && (
              <span aria-hidden className="size-2 rounded-full" style={{ background: KIND_COLOURS[choice.kind] }} />
            )}
            {choice.name}
          </ComboboxOption>
        ))}
      </ComboboxOptions>
    </Combobox>
  );
}

const OPTION = 'flex cursor-pointer items-center gap-2 rounded px-2 py-1 data-focus:bg-rope';

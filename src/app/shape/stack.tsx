/** The effects of an accent in their order, and the shelf to take more from. */
import { useMemo, useState } from 'react';
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/react';
import { closestCenter, DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors } from '@dnd-kit/core';
import {
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { nanoid } from 'nanoid';
import { ArrowDown, ArrowUp, Copy, Ear, Eye, EyeOff, GripVertical, Layers, Plus, Trash2 } from 'lucide-react';
import {
  addAccent,
  addEffect,
  changeAccent,
  changeEffect,
  dropEffect,
  moveEffect,
  removeEffect,
} from '../../core/document/edits.ts';
import type { EffectGroup, EffectSpec } from '../../core/accents/effect-spec.ts';
import { hasColour, hasPlace } from '../../core/accents/effect-spec.ts';
import { copyOf } from '../../core/document/uses.ts';
import { readCube } from '../../core/document/colour-table.ts';
import type { Accent, EffectUse } from '../../core/document/types.ts';
import { EFFECTS, EFFECT_LIST } from '../../effects/index.ts';
import { FileButton } from '../parts/file-button.tsx';
import { newUse } from '../parts/new-use.ts';
import { NumberField } from '../parts/number-field.tsx';
import { useDerived } from '../stores/derived.ts';
import { deleteAccent } from '../stores/actions.ts';
import { bringOverlay } from '../stores/bring-in.ts';
import { edit, useMontage } from '../stores/montage.ts';
import { notice, useView } from '../stores/view.ts';
import { AccentPicture, shelfAccent } from './accent-picture.tsx';
import { ColourField } from './colour-field.tsx';
import { ToneCurve } from './tone-curve.tsx';
import { allUses, useChosenAccent, useShaping, useShapingFrame } from './shaping.ts';

const GROUPS: Record<EffectGroup, string> = { move: 'Move', colour: 'Colour', light: 'Blur and light', time: 'Time' };

/** All words that an effect is looked for by. */
const spoken = ({ name, also = '' }: EffectSpec): string => `${name} ${also}`.toLowerCase();

/** Effects of an accent under new ids. */
const copies = (uses: readonly EffectUse[], { effects }: Accent): EffectUse[] => copyOf(uses, effects, () => nanoid(8));

export function Stack() {
  const accent = useChosenAccent()!;
  const [adding, setAdding] = useState<{ into: string | null } | null>(null);
  const sensors = useSensors(
    // A press that does not move is a click.
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const duplicate = (): void => {
    const made: Accent = {
      ...accent,
      id: nanoid(8),
      name: `${accent.name} copy`,
      effects: copies(accent.effects, accent),
    };
    edit(addAccent(made));
    useView.setState({ accent: made.id });
  };
  return (
    <>
      <div className="flex items-center gap-1">
        <input
          className="field min-w-0 grow"
          aria-label="Name of the accent"
          value={accent.name}
          maxLength={200}
          onChange={(event) => {
            const name = event.currentTarget.value;
            edit(
              changeAccent(accent.id, (a) => ({ ...a, name })),
              `accent-name-${accent.id}`,
            );
          }}
        />
        <button className="key-quiet" aria-label="Duplicate the accent" title="Duplicate" onClick={duplicate}>
          <Copy size={15} />
        </button>
        <button
          className="key-quiet"
          aria-label="Delete the accent"
          title="Delete"
          onClick={() => deleteAccent(accent)}
        >
          <Trash2 size={15} />
        </button>
      </div>
      <DndContext
        sensors={sensors}
        collisionDetection={closestCenter}
        onDragEnd={({ active, over }) => {
          if (over && over.id !== active.id) edit(dropEffect(accent.id, String(active.id), String(over.id)));
        }}
      >
        <SortableContext items={accent.effects.map(({ id }) => id)} strategy={verticalListSortingStrategy}>
          <ol className="flex flex-col gap-1.5" aria-label="Effects, drawn from first to last">
            {accent.effects.map((use, i) => (
              <EffectRow key={use.id} accent={accent} use={use} at={i} onAdd={(into) => setAdding({ into })} />
            ))}
            {accent.effects.length === 0 && <li className="text-fog">No effects yet: add one below.</li>}
          </ol>
        </SortableContext>
      </DndContext>
      <button
        className="key self-start"
        aria-expanded={adding !== null}
        onClick={() => setAdding(adding ? null : { into: null })}
      >
        <Plus size={14} />
        Add an effect
      </button>
      {adding && <Shelf accent={accent} into={adding.into} onDone={() => setAdding(null)} />}
    </>
  );
}

function Shelf({ accent, into, onDone }: { accent: Accent; into: string | null; onDone: () => void }) {
  const frame = useShapingFrame();
  const [words, setWords] = useState('');
  const wanted = words.trim().toLowerCase();
  /** How well an effect answers: by the start of its name, its name, what it does, what can be set. */
  const answer = (e: EffectSpec): number => {
    const name = e.name.toLowerCase();
    if (name.startsWith(wanted)) return 4;
    if (name.includes(wanted)) return 3;
    if (e.also?.split(' ').some((word) => word.startsWith(wanted.split(' ')[0]!)) && spoken(e).includes(wanted))
      return 3;
    if (e.doc.toLowerCase().includes(wanted)) return 2;
    return Object.values(e.params).some((p) => `${p.label} ${p.doc}`.toLowerCase().includes(wanted)) ? 1 : 0;
  };
  const found = EFFECT_LIST.filter((e) => answer(e) > 0)
    .sort((a, b) => answer(b) - answer(a))
    // What asks for other frames is not drawn on frames that were asked for.
    .filter((e) => into === null || (!e.retime && !e.copies && !e.shutter));
  const add = (id: string): void => {
    const use = newUse(accent, id);
    edit(
      into === null
        ? addEffect(accent.id, use)
        : changeEffect(accent.id, into, (e) => ({ ...e, stack: [...(e.stack ?? []), use] })),
    );
    useShaping.setState({ use: use.id, row: null });
    onDone();
  };
  return (
    <div
      ref={(box) => box?.scrollIntoView({ block: 'nearest' })}
      className="flex flex-col gap-2 rounded-md border border-rope p-2"
      role="group"
      aria-label="Shelf of effects"
    >
      <input
        autoFocus
        className="field"
        placeholder="Type a name, or what it should do"
        aria-label="Find an effect"
        value={words}
        onChange={(event) => setWords(event.currentTarget.value)}
        onKeyDown={(event) => {
          if (event.key === 'Enter' && found[0]) add(found[0].id);
          if (event.key === 'Escape') onDone();
        }}
      />
      {(Object.keys(GROUPS) as EffectGroup[]).map((group) => {
        const here = found.filter((e) => e.group === group);
        return (
          here.length > 0 && (
            <section key={group} className="flex flex-col gap-1">
              <h3 className="caption">{GROUPS[group]}</h3>
              <ul className="grid grid-cols-3 gap-1.5">
                {here.map((effect) => (
                  <li key={effect.id}>
                    <button
                      className="block w-full overflow-hidden rounded-md border border-rope text-left hover:border-tide"
                      title={effect.doc}
                      aria-label={`Add ${effect.name}`}
                      onClick={() => add(effect.id)}
                    >
                      {frame === null ? (
                        <span className="block aspect-video bg-black" />
                      ) : (
                        <AccentPicture accent={shelfAccent(effect.id)} frame={frame} />
                      )}
                      <span className="block truncate px-1.5 py-0.5 text-[12px]">{effect.name}</span>
                    </button>
                  </li>
                ))}
              </ul>
            </section>
          )
        );
      })}
      {found.length === 0 && <p className="text-fog">No effect is called that.</p>}
    </div>
  );
}

function EffectRow({
  accent,
  use,
  at,
  onAdd,
  nested = false,
}: {
  accent: Accent;
  use: EffectUse;
  at: number;
  onAdd: (into: string) => void;
  nested?: boolean;
}) {
  const spec = EFFECTS.get(use.effect);
  const chosen = useShaping((s) => s.use === use.id);
  const solo = useShaping((s) => s.solo === use.id);
  const pictures = useMontage((s) => s.montage!.sources).filter(({ video }) => video);
  const sorting = useSortable({ id: use.id, disabled: nested });
  const frame = useShapingFrame();
  // What this effect does by itself, on the person's own frame.
  const alone = useMemo(
    (): Accent => ({ ...accent, name: use.effect, effects: [{ ...use, on: true }] }),
    [accent, use],
  );
  if (!spec) {
    return (
      <li className="flex items-center gap-2 rounded-md border border-ember px-2.5 py-1.5">
        <span className="grow">Unknown effect “{use.effect}”: kept, but not drawn</span>
        <button
          className="key-quiet"
          aria-label={`Remove ${use.effect}`}
          onClick={() => edit(removeEffect(accent.id, use.id))}
        >
          <Trash2 size={14} />
        </button>
      </li>
    );
  }
  const change = (work: (e: EffectUse) => EffectUse, group?: string): void =>
    edit(changeEffect(accent.id, use.id, work), group);
  const choices = Object.entries(spec.params).filter(([, p]) => p.choices);
  const unknown = allUses(use.stack ?? []).length;
  return (
    <li
      ref={sorting.setNodeRef}
      className={`rounded-md bg-plank px-2 py-1 ${chosen ? 'ring-1 ring-tide' : ''} ${use.on ? '' : 'opacity-50'} ${sorting.isDragging ? 'relative z-10 ring-2 ring-lamp' : ''} ${nested ? 'ml-4' : ''}`}
      style={{ transform: CSS.Translate.toString(sorting.transform), transition: sorting.transition }}
      data-effect={use.effect}
    >
      <div className="flex items-center gap-0.5">
        {!nested && frame !== null && (
          <span className="mr-1.5 w-11 shrink-0 overflow-hidden rounded-sm">
            <AccentPicture accent={alone} frame={frame} />
          </span>
        )}
        {!nested && (
          <button
            className="key-quiet cursor-grab touch-none px-0.5"
            {...sorting.attributes}
            {...sorting.listeners}
            aria-label={`Drag ${spec.name} to another place`}
          >
            <GripVertical size={14} />
          </button>
        )}
        <button
          className="min-w-0 grow truncate text-left font-medium"
          title={spec.doc}
          aria-pressed={chosen}
          onClick={() => useShaping.setState({ use: use.id })}
          onKeyDown={(event) => {
            if (!event.altKey || (event.key !== 'ArrowUp' && event.key !== 'ArrowDown')) return;
            event.preventDefault();
            event.stopPropagation();
            edit(moveEffect(accent.id, use.id, event.key === 'ArrowUp' ? -1 : 1));
          }}
        >
          {nested ? '› ' : `${at + 1}. `}
          {spec.name}
        </button>
        {!nested && (
          <button
            className={`key-quiet px-1 ${solo ? 'text-lamp' : ''}`}
            aria-label={`Show ${spec.name} alone`}
            aria-pressed={solo}
            title="Alone"
            onClick={() => useShaping.setState({ solo: solo ? null : use.id })}
          >
            <Ear size={14} />
          </button>
        )}
        <button
          className="key-quiet px-1"
          aria-label={use.on ? `Switch ${spec.name} off` : `Switch ${spec.name} on`}
          onClick={() => change((e) => ({ ...e, on: !e.on }))}
        >
          {use.on ? <Eye size={14} /> : <EyeOff size={14} />}
        </button>
        {!nested && (
          <>
            <button
              className="key-quiet px-1"
              aria-label={`${spec.name} earlier`}
              title="Earlier (Alt ↑)"
              disabled={at === 0}
              onClick={() => edit(moveEffect(accent.id, use.id, -1))}
            >
              <ArrowUp size={14} />
            </button>
            <button
              className="key-quiet px-1"
              aria-label={`${spec.name} later`}
              title="Later (Alt ↓)"
              disabled={at === accent.effects.length - 1}
              onClick={() => edit(moveEffect(accent.id, use.id, 1))}
            >
              <ArrowDown size={14} />
            </button>
          </>
        )}
        <CopyTo use={use} from={accent} name={spec.name} />
        <button
          className="key-quiet px-1"
          aria-label={`Remove ${spec.name}`}
          onClick={() => edit(removeEffect(accent.id, use.id))}
        >
          <Trash2 size={14} />
        </button>
      </div>
      {choices.length > 0 && (
        <div className="mt-0.5 flex flex-wrap gap-x-2 gap-y-1">
          {choices.map(([name, param]) => (
            <label key={name} className="flex items-center gap-1 text-[12px] text-fog" title={param.doc}>
              {param.label}
              <select
                className="field py-0"
                value={typeof use.params[name] === 'number' ? use.params[name] : param.default}
                onChange={(event) => {
                  const value = Number(event.currentTarget.value);
                  change((e) => ({ ...e, params: { ...e.params, [name]: value } }));
                }}
              >
                {param.choices!.map((choice, i) => (
                  <option key={choice} value={i}>
                    {choice}
                  </option>
                ))}
              </select>
            </label>
          ))}
        </div>
      )}
      {spec.table && (
        <div className="mt-1 flex items-center gap-2 text-[12px] text-fog">
          <FileButton
            label={use.table ? 'Another table' : 'Choose a .cube file'}
            accept=".cube"
            onFiles={([brought]) => {
              const file = brought?.file;
              if (file)
                void file
                  .text()
                  .then((text) => {
                    const table = readCube(text, file.name);
                    change((e) => ({ ...e, table }));
                  })
                  .catch((error: unknown) =>
                    notice(error instanceof Error ? error.message : 'The file cannot be read.', 'error'),
                  );
            }}
          />
          <span className="truncate">
            {use.table ? `${use.table.name}, ${use.table.size} a side` : 'no table yet: nothing is drawn'}
          </span>
        </div>
      )}
      {spec.source && (
        <div className="mt-1 flex items-center gap-2 text-[12px] text-fog">
          Shows
          <select
            className="field min-w-0 grow py-0.5"
            aria-label={`Picture or clip that ${spec.name} shows`}
            value={use.source ?? ''}
            onChange={(event) => {
              const source = event.currentTarget.value || undefined;
              change((e) => ({ ...e, source }));
            }}
          >
            <option value="">nothing yet: choose a file</option>
            {pictures.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </select>
          <FileButton
            accept="video/*,image/*,.mkv,.mov"
            className="key px-1.5 py-0"
            label="File …"
            handles
            onFiles={([brought]) => brought && void bringOverlay(accent.id, use.id, brought)}
          />
        </div>
      )}
      {chosen && hasColour(spec) && <ColourField use={use} spec={spec} />}
      {chosen && spec.tone && <ToneCurve use={use} spec={spec} />}
      {chosen && hasPlace(spec) && (
        <label
          className="mt-1 flex items-center gap-1.5 text-[12px] text-fog"
          title="Its place counts from the point where the hit happens, and moves with it; without a focus, from the middle"
        >
          <input
            type="checkbox"
            className="accent-tide"
            checked={use.focus ?? false}
            onChange={(event) => {
              const { checked } = event.currentTarget;
              change(({ focus: _, ...e }) => (checked ? { ...e, focus: true } : e));
            }}
          />
          Follows the hit’s focus
        </label>
      )}
      {chosen && !nested && (
        <div className="mt-1 flex flex-wrap items-center gap-1 text-[12px] text-fog">
          <span title="Copies of this effect, each some frames later">Repeat</span>
          <NumberField
            label={`${spec.name}: further times`}
            value={use.repeat?.times ?? 0}
            min={0}
            max={64}
            onValue={(times) =>
              change(({ repeat, ...e }) =>
                times ? { ...e, repeat: { every: 2, length: 1, strength: 0.7, ...repeat, times } } : e,
              )
            }
          />
          {use.repeat && (
            <>
              <span>× every</span>
              <NumberField
                label={`${spec.name}: frames between`}
                value={use.repeat.every}
                min={0}
                max={600}
                onValue={(every) => change((e) => ({ ...e, repeat: { ...e.repeat!, every } }))}
              />
              <span>f, length</span>
              <NumberField
                label={`${spec.name}: length of each in percent`}
                value={Math.round(use.repeat.length * 100)}
                min={5}
                max={400}
                onValue={(v) => change((e) => ({ ...e, repeat: { ...e.repeat!, length: v / 100 } }))}
              />
              <span>%, strength</span>
              <NumberField
                label={`${spec.name}: strength of each in percent`}
                value={Math.round(use.repeat.strength * 100)}
                min={0}
                max={400}
                onValue={(v) => change((e) => ({ ...e, repeat: { ...e.repeat!, strength: v / 100 } }))}
              />
              <span>%</span>
            </>
          )}
        </div>
      )}
      {spec.copies && !spec.measures && !nested && (
        <div className="mt-1 flex flex-col gap-1">
          {unknown > 0 && (
            <ol className="flex flex-col gap-1">
              {(use.stack ?? []).map((inner, i) => (
                <EffectRow key={inner.id} accent={accent} use={inner} at={i} onAdd={onAdd} nested />
              ))}
            </ol>
          )}
          <button className="key-quiet self-start text-[12px]" onClick={() => onAdd(use.id)}>
            <Layers size={13} />
            Effect on its copies
          </button>
        </div>
      )}
    </li>
  );
}

/** Copies an effect into another accent of the montage. */
function CopyTo({ use, from, name }: { use: EffectUse; from: Accent; name: string }) {
  const { montage } = useDerived()!;
  return (
    <Menu>
      <MenuButton className="key-quiet px-1" aria-label={`Copy ${name} to an accent`} title="Copy to an accent">
        <Copy size={14} />
      </MenuButton>
      <MenuItems anchor="bottom end" className="pop max-h-64">
        {montage.accents.map((accent) => (
          <MenuItem key={accent.id}>
            <button
              className="pop-item"
              onClick={() => {
                edit(addEffect(accent.id, copies([use], from)[0]!));
                notice(`${name} is copied to ${accent.name}.`);
              }}
            >
              {accent.name}
            </button>
          </MenuItem>
        ))}
      </MenuItems>
    </Menu>
  );
}

/** One accent: which effects, how each value runs, where in the picture, and how it lies on a hit. */
import { useEffect } from 'react';
import { Tab, TabGroup, TabList, TabPanel, TabPanels } from '@headlessui/react';
import { nanoid } from 'nanoid';
import { Plus } from 'lucide-react';
import { useNavigate } from 'react-router';
import { addAccent } from '../../core/document/edits.ts';
import { DEFAULT_ACCENT, type Accent } from '../../core/document/types.ts';
import { randomSeed } from '../parts/seed.ts';
import { seek, spreadAccent } from '../stores/actions.ts';
import { useDerived } from '../stores/derived.ts';
import { ACCENT_TYPE } from '../stores/laying.ts';
import { edit } from '../stores/montage.ts';
import { useView } from '../stores/view.ts';
import { AccentPicture } from './accent-picture.tsx';
import { Library } from './library.tsx';
import { RegionPanel } from './region-panel.tsx';
import { RowPanel } from './row.tsx';
import { useChosenAccent, usePlacedAccent, useShapingFrame, useShaping } from './shaping.ts';
import { Sounds } from './sounds.tsx';
import { Stack } from './stack.tsx';
import { Timing } from './timing.tsx';

const TABS = [
  { name: 'Effects', Panel: Stack },
  { name: 'Row', Panel: RowPanel },
  { name: 'Region', Panel: RegionPanel },
  { name: 'Timing', Panel: Timing },
  { name: 'Sound', Panel: Sounds },
  { name: 'Library', Panel: Library },
] as const;

/** An accent to choose, and the place where a new one is made. */
const CARD = 'block w-full overflow-hidden rounded-md border-2 text-left';
const NEW_CARD = [
  'flex h-full min-h-14 w-full flex-col items-center justify-center gap-1',
  'rounded-md border-2 border-dashed border-rope text-[12px] text-fog hover:text-sail',
].join(' ');

export function Shape() {
  const derived = useDerived()!;
  const accent = useChosenAccent();
  const frame = useShapingFrame();
  const tab = useShaping((s) => s.tab);
  const go = useNavigate();
  const { montage } = derived;
  const shaped = usePlacedAccent();
  // The picture shows the hit that is shaped on, unless it already shows a frame of the accent there.
  useEffect(() => {
    const { playhead } = useView.getState();
    if (frame !== null && (!shaped || playhead < shaped.placed.from || playhead > shaped.placed.to)) seek(frame);
  }, [frame]);
  const chosen = useView((s) => s.chosen);
  const shapedId = accent?.id;
  // A rule that is begun from an accent takes hits like the one it was shaped on.
  useEffect(() => {
    if (shapedId && chosen) useView.setState((s) => ({ shapedOn: { ...s.shapedOn, [shapedId]: chosen } }));
  }, [shapedId, chosen]);
  const pick = (id: string): void => useView.setState({ accent: id });
  const addNew = (): void => {
    const made: Accent = {
      ...DEFAULT_ACCENT,
      id: nanoid(8),
      name: 'New accent',
      rate: derived.line.rate,
      lead: 2,
      tail: 10,
      seed: randomSeed(),
      effects: [],
    };
    edit(addAccent(made));
    pick(made.id);
    useShaping.setState({ tab: 0 });
  };
  const spread = (): void => {
    if (accent && !montage.rules.some(({ accents }) => accents.some((one) => one.accent === accent.id)))
      spreadAccent(accent.id);
    void go(`/montage/${montage.id}/spread`);
  };
  return (
    <>
      <ul className="flex shrink-0 gap-1.5 overflow-x-auto pb-1" aria-label="Accents of this montage">
        {montage.accents.map((item) => (
          <li key={item.id} className="w-[74px] shrink-0">
            <button
              className={`${CARD} ${item.id === accent?.id ? 'border-tide' : 'border-rope'}`}
              aria-pressed={item.id === accent?.id}
              title="Drag it onto a hit, a frame or the landscape: it is laid there by hand. A: on the chosen hit."
              draggable
              onDragStart={(event) => {
                event.dataTransfer.setData(ACCENT_TYPE, item.id);
                event.dataTransfer.effectAllowed = 'copy';
              }}
              onClick={() => pick(item.id)}
            >
              {frame === null ? (
                <span className="block aspect-video bg-black" />
              ) : (
                <AccentPicture accent={item} frame={frame} />
              )}
              <span className="block truncate px-1.5 py-0.5 text-[12px]">{item.name}</span>
            </button>
          </li>
        ))}
        <li className="w-[74px] shrink-0">
          <button className={NEW_CARD} onClick={addNew}>
            <Plus size={16} />
            New
          </button>
        </li>
      </ul>
      <TabGroup
        className="flex shrink-0 grow flex-col gap-2"
        selectedIndex={tab}
        onChange={(next) => useShaping.setState({ tab: next })}
      >
        <TabList className="flex gap-4 border-b border-rope">
          {TABS.map(({ name }) => (
            <Tab key={name} className="tab">
              {name}
            </Tab>
          ))}
        </TabList>
        <TabPanels className="flex grow flex-col">
          {TABS.map(({ name, Panel }) => (
            <TabPanel key={name} className="flex grow flex-col gap-2">
              {accent || name === 'Library' ? (
                <Panel />
              ) : (
                <p className="text-fog">No accent yet: make one, or take one from the library.</p>
              )}
            </TabPanel>
          ))}
        </TabPanels>
      </TabGroup>
      <div className="foot">
        <button
          className="key-main"
          data-main
          disabled={!accent || !(accent.effects.length || accent.sounds?.length || accent.lanes?.length || accent.ramp)}
          onClick={spread}
        >
          Spread this accent
        </button>
      </div>
    </>
  );
}

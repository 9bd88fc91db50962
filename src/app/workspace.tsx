/** One montage: the picture, the station's panel, the frames and the landscape. */
import { lazy, Suspense, useEffect, useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import { Command as CommandIcon, Save } from 'lucide-react';
import { restoreMontage, sentence } from '../engine/index.ts';
import { setName } from '../core/document/edits.ts';
import { BringIn } from './bring-in/bring-in.tsx';
import { FrameStrip } from './check/frame-strip.tsx';
import { Landscape } from './landscape/landscape.tsx';
import { EdgeHandle } from './parts/edge-handle.tsx';
import { History } from './parts/history.tsx';
import { Jobs, Notices } from './parts/notices.tsx';
import { Shortcuts } from './parts/shortcuts.tsx';
import { Stage } from './parts/stage.tsx';
import { STATIONS } from './parts/stations.ts';
import { Way } from './parts/way.tsx';
import './stores/family-search.ts';
import { unlockMedia, useMedia } from './stores/media.ts';
import { edit, saveAgain, useMontage } from './stores/montage.ts';
import { setNavigate } from './stores/navigation.ts';
import { openDemo, openStored, rememberShown, saveProject, type Broken } from './stores/opening.ts';
import { useWindowSize } from './parts/use-size.ts';
import { BrokenMontage } from './rescue.tsx';
import { notice, usePreferences, useRenderer, useView } from './stores/view.ts';

// Fetched at once, but nothing waits for them.
void import('./stores/landing.ts');
const finder = import('./parts/finder.tsx');
const Finder = lazy(() => finder.then(({ Finder }) => ({ default: Finder })));

// What the later stations need is fetched when they are first gone to, from the same place as the rest.
const Check = lazy(() => import('./check/check.tsx').then(({ Check }) => ({ default: Check })));
const Shape = lazy(() => import('./shape/shape.tsx').then(({ Shape }) => ({ default: Shape })));
const Ladder = lazy(() => import('./shape/ladder.tsx').then(({ Ladder }) => ({ default: Ladder })));
const Spread = lazy(() => import('./spread/spread.tsx').then(({ Spread }) => ({ default: Spread })));
const Sheet = lazy(() => import('./spread/sheet.tsx').then(({ Sheet }) => ({ default: Sheet })));
const ExportPanel = lazy(() =>
  import('./export/export-panel.tsx').then(({ ExportPanel }) => ({ default: ExportPanel })),
);

export function DemoEntry() {
  const go = useNavigate();
  useEffect(() => {
    openDemo().then(
      (id) => go(`/montage/${id}/bring-in`, { replace: true }),
      (error: unknown) => {
        notice(sentence(error), 'error');
        void go('/');
      },
    );
  }, [go]);
  return <p className="p-10 text-fog">Opening Harbour Nights…</p>;
}

export function Workspace() {
  const { id, station = 'bring-in' } = useParams();
  const go = useNavigate();
  const [ready, setReady] = useState<string | null>(null);
  const [broken, setBroken] = useState<Broken | null>(null);
  useEffect(() => {
    setReady(null);
    setBroken(null);
    openStored(id!).then(
      (there) => {
        if (there === 'open') setReady(id!);
        else if (there === 'none') {
          notice('This browser holds no such montage.', 'error');
          void go('/');
        } else setBroken(there);
      },
      (error: unknown) => notice(sentence(error), 'error'),
    );
  }, [id, go]);
  // What waits for a press on the picture belongs to the station it was begun at.
  useEffect(() => useView.setState({ drawing: null }), [station]);
  useEffect(() => setNavigate((path) => void go(path)), [go]);
  // What came as far as the screen can be opened again.
  useEffect(() => {
    if (ready) rememberShown();
  }, [ready]);
  const montage = useMontage((s) => s.montage);
  // A picture is handed to one thread for good: another thread needs another one.
  const server = useMedia((s) => s.server);
  const alone = useView((s) => s.alone);
  const dimmed = usePreferences((s) => s.dimmed);
  const renderer = useRenderer();
  const inner = useWindowSize().width;
  const chosenWidth = usePreferences((s) => s.panelWidth);
  const panelWidth = chosenWidth ? bounded(chosenWidth, NARROWEST) : bounded(inner * PANEL_SHARE, LEAST_UNASKED);
  if (broken)
    return (
      <BrokenMontage
        broken={broken}
        onOpen={() => {
          setBroken(null);
          setReady(id!);
        }}
      />
    );
  // Never another montage's picture under this one's address.
  if (ready !== id || montage?.id !== id)
    return (
      <>
        <p className="p-10 text-fog">Opening…</p>
        <Notices floating />
      </>
    );
  return (
    <div className="flex h-full flex-col" data-dimmed={dimmed || undefined}>
      <Header />
      <Warnings />
      <main
        className="grid min-h-0 grow grid-rows-[minmax(0,1fr)_auto]"
        style={{ gridTemplateColumns: alone ? 'minmax(0,1fr)' : `minmax(0,1fr) ${panelWidth}px` }}
      >
        <Stage
          key={`${server} ${renderer}`}
          audition={station === 'shape'}
          marking={station === 'check' || station === 'bring-in'}
          titles={station === 'spread'}
        />
        {/* Shaping needs a tall panel: the ladder lies under the picture alone. */}
        {!alone && (
          <div className="relative row-span-2 flex min-h-0 flex-col">
            <EdgeHandle
              edge="left"
              label="Width of the panel"
              title="Drag: a wider panel, or a wider picture"
              size={panelWidth}
              limits={[NARROWEST, WIDEST]}
              keeps="panelWidth"
            />
            <Way />
            <section
              aria-label={STATIONS.find((s) => s.id === station)?.name}
              className="flex min-h-0 grow flex-col gap-3 overflow-y-auto border-l border-rope bg-deck p-4"
            >
              {station === 'bring-in' && <BringIn />}
              <Suspense>
                {station === 'check' && <Check />}
                {station === 'shape' && <Shape />}
                {station === 'spread' && <Spread />}
                {station === 'export' && <ExportPanel />}
              </Suspense>
            </section>
            <div className="flex flex-col gap-2 border-l border-rope bg-deck px-3 pb-2 empty:hidden">
              <Jobs />
              <Notices />
            </div>
          </div>
        )}
        {station === 'shape' && !alone && (
          <div className="col-start-1 min-w-0">
            <Suspense>
              <Ladder />
            </Suspense>
          </div>
        )}
      </main>
      {alone ? null : station === 'spread' ? (
        <Suspense>
          <Sheet />
        </Suspense>
      ) : (
        station !== 'shape' && <FrameStrip />
      )}
      {!alone && <Landscape lanes={station === 'bring-in'} />}
      <Suspense>
        <Finder />
      </Suspense>
    </div>
  );
}

/** Widths between which the panel can be dragged, pixels. */
const NARROWEST = 320;
const WIDEST = 900;
/** What it takes where nothing was dragged: a share of the window, but so many pixels at least. */
const PANEL_SHARE = 0.24;
const LEAST_UNASKED = 348;
const bounded = (width: number, least: number): number => Math.round(Math.min(WIDEST, Math.max(least, width)));

function Header() {
  const montage = useMontage((s) => s.montage)!;
  const newer = useView((s) => s.newer);
  const { saved, readOnly } = useMontage();
  const state = readOnly ? 'Read only' : saved === 'saved' ? 'Saved' : saved === 'saving' ? 'Saving…' : 'Not saved';
  return (
    <header className="flex items-center gap-4 border-b border-rope bg-deck px-4 py-2">
      <a href="/" className="flex items-center gap-2 font-semibold tracking-tight" aria-label="Akmeon, all montages">
        <img src="/icon.svg" width={22} height={22} alt="" />
        Akmeon
      </a>
      <input
        aria-label="Name of the montage"
        className="w-40 rounded bg-transparent px-1.5 py-0.5 text-fog hover:bg-plank focus:bg-plank focus:text-sail"
        value={montage.name}
        maxLength={200}
        onChange={(event) => edit(setName(event.currentTarget.value), 'name')}
      />
      <span className="grow" />
      {newer && (
        <a href="/" className="text-[12px] text-fog underline" title="It is taken there, never under open work">
          A newer version is on the shelf
        </a>
      )}
      <span
        data-saved={saved}
        className={`w-16 text-right text-[12px] ${saved === 'failed' ? 'text-ember' : 'text-fog'}`}
      >
        {state}
      </span>
      <div className="flex items-center gap-1">
        <History />
        <button
          className="key-quiet"
          aria-label="Save to a project file"
          title="Save to a project file"
          onClick={() => saveProject(montage)}
        >
          <Save size={16} />
        </button>
        <button
          className="key-quiet"
          aria-label="Find a command"
          title="Find a command (Ctrl J)"
          onClick={() => useView.setState({ commandsOpen: true })}
        >
          <CommandIcon size={16} />
        </button>
      </div>
      <Shortcuts />
    </header>
  );
}

/** What stands in the way: another tab, a refused storage, media that are not at hand. */
function Warnings() {
  const { readOnly, problem, gone, montage } = useMontage();
  const states = useMedia((s) => s.states);
  const named = (state: string): string =>
    (montage?.sources ?? [])
      .filter((s) => states[s.id] === state)
      .map((s) => s.name)
      .join(', ');
  const locked = named('locked');
  const missing = named('missing');
  return (
    <div className="text-[13px]">
      {readOnly && (
        <p className="bg-lamp-deep px-4 py-1.5 text-night font-medium">
          This montage is open in another tab, which goes on saving it. Here it can be looked at, not changed.
        </p>
      )}
      {problem && (
        <p className="flex items-center gap-3 bg-ember px-4 py-1.5 font-medium text-night">
          {problem}
          <button className="key" onClick={() => montage && saveProject(montage)}>
            Save to a file
          </button>
          {gone && montage && (
            <button className="key" onClick={() => void restoreMontage(montage.id).then(saveAgain)}>
              Keep it
            </button>
          )}
        </p>
      )}
      {locked && (
        <p className="flex items-center gap-3 bg-plank px-4 py-1.5">
          The browser asks for your permission to open {locked} again.
          <button className="key" onClick={() => void unlockMedia()}>
            Allow
          </button>
        </p>
      )}
      {missing && (
        <p className="bg-plank px-4 py-1.5">
          Missing: {missing}. Bring the file in again (its content is checked); hits and accents are kept.
        </p>
      )}
    </div>
  );
}

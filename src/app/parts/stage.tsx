/** The picture with its transport. Pictures follow the playhead; what comes too late is dropped. */
import { lazy, Suspense, useEffect, useRef, useState, type ReactNode } from 'react';
import {
  ChevronLeft,
  ChevronRight,
  Pause,
  Play,
  Plus,
  Repeat2,
  SkipBack,
  SkipForward,
  SquareSplitHorizontal,
} from 'lucide-react';
import { lowerBound } from '../../core/base/search.ts';
import { timecode } from '../../core/base/time.ts';
import type { SubjectLook } from '../../core/accents/layers.ts';
import type { Montage } from '../../core/document/types.ts';
import { EngineError, sentence, transfer, type ListedStarts, type ShowOptions } from '../../engine/index.ts';
import { addHitHere, chooseNext, step } from '../stores/actions.ts';
import { COMPARE_KEY, keyLabel } from '../stores/keys.ts';
import { useDerived } from '../stores/derived.ts';
import { frameServer, useMedia } from '../stores/media.ts';
import { useMontage } from '../stores/montage.ts';
import { retune, togglePlaying } from '../stores/player.ts';
import { notice, rendererNow, usePreferences, useView } from '../stores/view.ts';
import { useMeter } from '../stores/meter.ts';
import { FocusMark } from './focus-mark.tsx';
import { FormatSwitch } from './format-switch.tsx';
import { PinMarks } from './pin.tsx';
import { RegionDrawer } from './region-drawer.tsx';
import { RegionOverlay } from '../shape/region-overlay.tsx';
import { useAudition } from '../shape/shaping.ts';

/** Heights tried in turn: playing drops size before it drops frames. */
const HEIGHTS = [540, 432, 360, 270, 180];

/** Words beside a symbol: where the picture is narrow the symbol alone is seen. */
const WHERE_WIDE = '@max-[780px]:sr-only';

const isMissing = (error: unknown): boolean =>
  error instanceof EngineError && (error.code === 'media-missing' || error.code === 'crashed');

/** The parts of a montage that another one has otherwise. */
const changedParts = (before: Montage, after: Montage): Partial<Montage> =>
  Object.fromEntries(Object.entries(after).filter(([part, value]) => before[part as keyof Montage] !== value));

class Painter {
  private busy = false;
  private next: (() => Promise<void>) | null = null;
  private told = '';
  /** Milliseconds the last pictures took, smoothed. */
  cost = 0;

  /** The newest wish waits while one is being drawn; older ones are dropped. */
  ask(work: () => Promise<void>): void {
    this.next = work;
    if (!this.busy) void this.run();
  }

  private async run(): Promise<void> {
    this.busy = true;
    while (this.next) {
      const work = this.next;
      this.next = null;
      const began = performance.now();
      try {
        await work();
        this.told = '';
      } catch (error) {
        if (error instanceof EngineError && error.code === 'graphics-lost') useView.setState({ graphicsLost: true });
        // What is missing is said above the picture; all else in one sentence, not one per frame.
        if (isMissing(error)) continue;
        if (this.told !== sentence(error)) notice((this.told = sentence(error)), 'error');
      }
      this.cost = this.cost * 0.7 + (performance.now() - began) * 0.3;
    }
    this.busy = false;
  }
}

const TitleMarks = lazy(() => import('../spread/title-marks.tsx').then((m) => ({ default: m.TitleMarks })));
const SubjectOverlay = lazy(() => import('./subject-overlay.tsx').then((m) => ({ default: m.SubjectOverlay })));

/** @param marking whether the chosen hit's focus is marked on the picture @param titles whether titles can be dragged */
export function Stage({
  audition: auditioning,
  marking,
  titles,
}: {
  audition: boolean;
  marking: boolean;
  titles: boolean;
}) {
  const derived = useDerived();
  const plain = useView((s) => s.plain);
  const recorded = useMontage((s) => s.recorded);
  const subject = useView((s) => marking && s.subject);
  const hidden = useView((s) => s.leftOut);
  const subjectView = useView(({ subject: cut, subjectView: look, subjectGround }): SubjectLook | undefined => {
    if (!marking || !cut || look === 'seen') return undefined;
    return look === 'colour' ? (subjectGround as `#${string}`) : look;
  });
  const playing = useView((s) => s.playing);
  const comparing = useView((s) => s.line);
  const dragging = useView((s) => s.dragging);
  const alone = useView((s) => s.alone);
  const dimmed = usePreferences((s) => s.dimmed);
  const { listed, epoch } = useMedia();
  const audition = useAudition(auditioning);
  const canvas = useRef<HTMLCanvasElement>(null);
  const element = useRef<HTMLCanvasElement>(null);
  const painter = useRef(new Painter());
  const [size, setSize] = useState(0);
  const [ready, setReady] = useState(0);

  useEffect(() => {
    // A fresh element per mount: a canvas can be handed to a worker only once.
    const made = document.createElement('canvas');
    element.current = made;
    made.className = 'rounded-sm bg-black';
    made.dataset['stage'] = '';
    made.setAttribute('role', 'img');
    made.setAttribute('aria-label', 'The picture at the playhead');
    const holder = canvas.current!.parentElement!;
    holder.append(made);
    const offscreen = made.transferControlToOffscreen();
    void frameServer()
      .attach(transfer(offscreen, [offscreen]), rendererNow())
      .then(
        (drawnBy) => {
          useMedia.setState({ drawnBy });
          setReady((n) => n + 1);
        },
        (error: unknown) => {
          if (!isMissing(error)) notice(sentence(error), 'error');
        },
      );
    return () => made.remove();
  }, []);

  const montage = derived?.montage;
  const aspect = montage ? montage.settings.width / montage.settings.height : 1;
  // It fills its place whatever size it is drawn in.
  useEffect(() => {
    Object.assign(element.current!.style, filling(aspect));
  }, [aspect]);
  /** What the preview's thread has: only what differs is sent. */
  const sent = useRef<{ montage: Montage; listed: ListedStarts } | null>(null);
  useEffect(() => {
    if (!montage) return;
    const before = sent.current;
    sent.current = { montage, listed };
    void frameServer()
      .setMontage(
        before ? changedParts(before.montage, montage) : montage,
        before?.listed === listed ? undefined : listed,
      )
      .then(
        () => setReady((n) => n + 1),
        (error: unknown) => {
          if (!isMissing(error)) notice(sentence(error), 'error');
        },
      );
  }, [montage, listed]);

  useEffect(() => useView.setState({ heard: audition }), [audition]);

  useEffect(() => {
    if (!montage || !ready) return;
    const { width, height } = montage.settings;
    const lines = Math.min(HEIGHTS[playing ? size : 0]!, height);
    const options: ShowOptions = {
      plain,
      height: lines & ~1,
      width: Math.round((lines * width) / height) & ~1,
      audition,
      draft: playing,
      line: comparing ?? undefined,
      subject: subjectView,
      hidden,
    };
    const frameTime = 1000 / (derived?.line.fps ?? 30);
    let shown = -1;
    // The picture follows the playhead past React: nothing around it is drawn anew.
    const follow = ({ playhead }: { playhead: number }): void => {
      if (playhead === shown) return;
      shown = playhead;
      painter.current.ask(async () => {
        await frameServer().show(playhead, options);
        if (element.current) element.current.dataset['shown'] = String(playhead);
      });
      if (playing && painter.current.cost > frameTime * 1.05 && size < HEIGHTS.length - 1) setSize(size + 1);
    };
    follow(useView.getState());
    return useView.subscribe(follow);
  }, [montage, plain, playing, comparing, subjectView, hidden, audition, ready, epoch, size, derived?.line.fps]);

  if (!derived) return null;
  const { line } = derived;
  return (
    <section aria-label="Picture" className="@container flex min-h-0 min-w-0 flex-col">
      <div className="relative flex min-h-0 grow items-center justify-center p-3" style={{ containerType: 'size' }}>
        <canvas ref={canvas} hidden />
        {line.count === 0 && <p className="absolute text-fog">Bring in footage to see it here.</p>}
        <RegionDrawer />
        <FormatSwitch />
        {alone && (
          <button
            className="key absolute top-3 left-3 z-20"
            title="P or Escape"
            onClick={() => useView.setState({ alone: false })}
          >
            Back to everything
          </button>
        )}
        <OnPicture aspect={aspect}>
          {auditioning && <RegionOverlay aspect={aspect} />}
          {marking && <FocusMark />}
          {titles && montage?.titles && (
            <Suspense>
              <TitleMarks />
            </Suspense>
          )}
          {titles && <PinMarks />}
          {subject && (
            <Suspense>
              <SubjectOverlay />
            </Suspense>
          )}
          {comparing !== null && <CompareLine share={comparing} />}
        </OnPicture>
        {dimmed && <p className="absolute top-5 right-5 rounded bg-night/80 px-2 py-1 text-tide">Dimmed here only</p>}
        {plain && <p className="absolute top-5 left-5 rounded bg-night/80 px-2 py-1 text-tide">Without accents</p>}
        {recorded && (
          <button
            className="absolute top-12 left-5 rounded bg-night/80 px-2 py-1 text-tide"
            title="Back to the speeds that are set (T)"
            onClick={() => useMontage.setState({ recorded: false })}
          >
            At recorded speed
          </button>
        )}
        {dragging && (
          <p className="mono absolute bottom-5 left-5 rounded bg-night/80 px-2 py-1 text-[15px] text-lamp">
            {dragging}
          </p>
        )}
      </div>
      <div className="flex items-center gap-2 px-4 pb-2 whitespace-nowrap @max-[780px]:gap-1 @max-[780px]:px-2">
        <div className="flex items-center gap-1">
          <button className="key-quiet" aria-label="Earlier hit" title="Earlier hit (↑)" onClick={() => chooseNext(-1)}>
            <SkipBack size={16} />
          </button>
          <button className="key-quiet" aria-label="One frame back" title="One frame back (←)" onClick={() => step(-1)}>
            <ChevronLeft size={16} />
          </button>
          <button
            className="key"
            aria-label={playing ? 'Pause' : 'Play'}
            title="Play or pause (Space)"
            onClick={togglePlaying}
          >
            {playing ? <Pause size={16} /> : <Play size={16} />}
          </button>
          <button className="key-quiet" aria-label="One frame on" title="One frame on (→)" onClick={() => step(1)}>
            <ChevronRight size={16} />
          </button>
          <button className="key-quiet" aria-label="Next hit" title="Next hit (↓)" onClick={() => chooseNext(1)}>
            <SkipForward size={16} />
          </button>
        </div>
        <Speeds />
        <Meter />
        <button
          className="key-quiet"
          title={`Hold ${keyLabel(COMPARE_KEY)} to compare`}
          aria-pressed={plain}
          onPointerDown={() => useView.setState({ plain: true })}
          onPointerUp={() => useView.setState({ plain: false })}
          onPointerLeave={() => useView.setState({ plain: false })}
        >
          Compare
        </button>
        <button
          className="key-quiet px-1"
          aria-label="Line of comparison"
          title="A line across the picture: plain to its left"
          aria-pressed={comparing !== null}
          onClick={() => useView.setState({ line: comparing === null ? 0.5 : null })}
        >
          <SquareSplitHorizontal size={15} className={comparing === null ? '' : 'text-lamp'} />
        </button>
        <button className="key-quiet" title="Add a hit here (H)" onClick={addHitHere}>
          <Plus size={14} />
          <span className={WHERE_WIDE}>Hit here</span>
        </button>
        <span className="grow" />
        <BigStep />
        <Readout />
      </div>
    </section>
  );
}

/** Where the playhead stands; it alone follows every frame. */
function Readout() {
  const playhead = useView((s) => s.playhead);
  const { line, shown, montage } = useDerived()!;
  const on = lowerBound(shown, playhead, ({ frame }) => frame);
  return (
    <>
      <span className="mono text-[13px]" data-playhead={playhead}>
        {timecode(playhead, line.rate)}
      </span>
      <span className="mono text-[12px] text-fog" title={`${montage.settings.width}×${montage.settings.height}`}>
        <span className={WHERE_WIDE}>frame </span>
        {playhead}/{Math.max(0, line.count - 1)}
        {shown[on]?.frame === playhead && <span className="@max-[980px]:sr-only"> · hit {on + 1}</span>}
      </span>
    </>
  );
}

/** As large as a box of this shape can be in its container. */
const filling = (aspect: number): { aspectRatio: string; width: string } => ({
  aspectRatio: String(aspect),
  width: `min(100cqw, ${100 * aspect}cqh)`,
});

/** A layer that lies exactly over the drawn picture. */
function OnPicture({ aspect, children }: { aspect: number; children: ReactNode }) {
  return (
    <div
      className="pointer-events-none absolute inset-3 flex items-center justify-center"
      style={{ containerType: 'size' }}
    >
      <div data-on-picture className="relative *:pointer-events-auto" style={filling(aspect)}>
        {children}
      </div>
    </div>
  );
}

function CompareLine({ share }: { share: number }) {
  return (
    <div
      role="slider"
      tabIndex={0}
      aria-label="Line of comparison"
      aria-valuenow={Math.round(share * 100)}
      className="absolute inset-y-0 -ml-2 w-4 cursor-ew-resize touch-none"
      style={{ left: `${share * 100}%` }}
      onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
      onPointerMove={(event) => {
        if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
        const box = event.currentTarget.parentElement!.getBoundingClientRect();
        useView.setState({ line: Math.min(1, Math.max(0.01, (event.clientX - box.left) / box.width)) });
      }}
      onKeyDown={(event) => {
        const by = { ArrowLeft: -0.02, ArrowRight: 0.02 }[event.key];
        if (!by) return;
        event.preventDefault();
        event.stopPropagation();
        useView.setState({ line: Math.min(1, Math.max(0.01, share + by)) });
      }}
    />
  );
}

/** How loud left and right are now, from -48 to 0 dB; red from -1 dB on. */
function Meter() {
  const { left, right, held } = useMeter();
  const wide = (decibels: number): string => `${Math.max(0, Math.min(100, (100 * (decibels + 48)) / 48))}%`;
  return (
    <span
      role="meter"
      aria-label="Level"
      aria-valuemin={-60}
      aria-valuemax={0}
      aria-valuenow={Math.round(Math.max(left, right))}
      title={held > -60 ? `Greatest sample so far: ${held.toFixed(1)} dB` : 'Level of what is heard'}
      className={`flex w-8 shrink-0 flex-col gap-0.5 ${WHERE_WIDE}`}
    >
      {[left, right].map((decibels, i) => (
        <span key={i} className="block h-1 overflow-hidden rounded-sm bg-plank">
          <span
            className={`block h-full ${decibels > -1 ? 'bg-ember' : 'bg-tide'}`}
            style={{ width: wide(decibels) }}
          />
        </span>
      ))}
    </span>
  );
}

function Speeds() {
  const speed = useView((s) => s.speed);
  const looping = useView((s) => s.looping);
  return (
    <div className="flex items-center gap-1" role="group" aria-label="Playing">
      <button
        className="key"
        aria-pressed={looping}
        title="Loop around the hit (O)"
        onClick={() => retune({ looping: !looping })}
      >
        <Repeat2 size={14} />
        <span className={WHERE_WIDE}>Loop</span>
      </button>
      {([1, 0.5, 0.25] as const).map((value) => (
        <button
          key={value}
          className="key"
          aria-pressed={speed === value}
          aria-label={`${{ 1: 'Full', 0.5: 'Half', 0.25: 'Quarter' }[value]} speed`}
          onClick={() => retune({ speed: value })}
        >
          {{ 1: '1', 0.5: '½', 0.25: '¼' }[value]}
        </button>
      ))}
    </div>
  );
}

function BigStep() {
  const { bigStep } = usePreferences();
  return (
    <label className="flex items-center gap-1 text-[12px] text-fog" title="Frames that Shift with an arrow key steps">
      <span className={WHERE_WIDE}>step</span>
      <input
        className="field w-14 py-0"
        type="number"
        min={2}
        max={300}
        value={bigStep}
        onChange={(event) => {
          const value = Math.round(Number(event.currentTarget.value));
          if (value >= 1 && value <= 300) usePreferences.setState({ bigStep: value });
        }}
      />
    </label>
  );
}

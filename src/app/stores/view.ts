/** What the person looks at and does right now; nothing here is part of the montage. */
import { create } from 'zustand';
import { persist } from 'zustand/middleware';
import type { Audition } from '../../core/accents/plan.ts';
import type { Montage } from '../../core/document/types.ts';
import type { JobState, Quality, RendererChoice, SoundChoice } from '../../engine/index.ts';

export interface Notice {
  readonly id: number;
  readonly tone: 'note' | 'error';
  readonly text: string;
  /** What it is about: trouble with it goes when that succeeds. */
  readonly about?: string | undefined;
}

/** What can be pinned to something in the picture: a title or a bed, by its id. */
export interface Pinned {
  readonly list: 'titles' | 'beds';
  readonly id: string;
}

/** Parts of the check panel. */
export const CHECK_TABS = ['Families', 'Frames', 'Hits', 'Finding', 'Seek'] as const;
export type CheckTab = (typeof CHECK_TABS)[number];

interface View {
  playhead: number;
  /** Occurrence key of the chosen hit. */
  chosen: string | null;
  accent: string | null;
  /** By accent, the key of the hit that it was shaped on last, where one was chosen. */
  shapedOn: Readonly<Record<string, string>>;
  playing: boolean;
  looping: boolean;
  speed: 1 | 0.5 | 0.25;
  /** Accents left out while the compare key is held. */
  plain: boolean;
  /** Share of the width left of which the picture is shown without accents; null: no line. */
  line: number | null;
  /** First and last visible montage frame of the landscape; null shows all. */
  view: readonly [number, number] | null;
  /** Kinds, and families with a name of their own by their ids, left out of list, landscape and steps. */
  hidden: readonly string[];
  /** Which part of the check panel is open. */
  checkTab: CheckTab;
  /** Undecided hits that are most likely kept come first. */
  byLikelihood: boolean;
  /** Keys of hits in the order that is seen, where that is not the order of time. */
  order: readonly string[] | null;
  /** What the last key decided. */
  decided: { readonly text: string; readonly montage: Montage } | null;
  /**
   * What waits for a press on the picture: a rectangle to watch or to shield, the chosen hit's focus, a pin, a path, a
   * colour, or strokes on the subject and off it.
   */
  drawing: 'appears' | 'changes' | 'focus' | 'pin' | 'shield' | 'path' | 'colour' | 'on' | 'off' | null;
  /** What is to be pinned by that press. */
  pinning: Pinned | null;
  /** Width of the brush, shares of the picture's height. */
  brush: number;
  /** The source whose subject is cut out, by its id. */
  subject: string | null;
  /** How that subject is shown. */
  subjectView: 'seen' | 'dimmed' | 'edge' | 'matte' | 'checks' | 'colour';
  /** The colour it is shown before, #rrggbb. */
  subjectGround: string;
  /** A newer version of the app, fetched in whole; nothing of it runs until it is taken, or all tabs were closed. */
  newer: ServiceWorker | null;
  /** Layers that are left out while one looks, never in an export. */
  leftOut: readonly string[];
  /** The format that is looked at; null: the montage's own shape. */
  format: string | null;
  jobs: readonly JobState[];
  notices: readonly Notice[];
  /** Files that could not be read, and why; until they are copied or let go. */
  refused: readonly { readonly file: File; readonly why: string }[];
  /** The picture has the whole window. */
  alone: boolean;
  commandsOpen: boolean;
  /** What a drag is doing, said on the picture; null: nothing is dragged. */
  dragging: string | null;
  /** The graphics unit went for good during this visit: the processor draws. */
  graphicsLost: boolean;
  /** The accent that is shaped, heard in place of all others. */
  heard: Audition | undefined;
}

export const useView = create<View>(() => ({
  playhead: 0,
  chosen: null,
  accent: null,
  shapedOn: {},
  playing: false,
  looping: false,
  speed: 1,
  plain: false,
  line: null,
  view: null,
  // Music gives a stroke, note or beat every few frames: shown when asked for.
  hidden: ['kick', 'snare', 'hat', 'note', 'beat'],
  checkTab: 'Hits',
  byLikelihood: false,
  order: null,
  decided: null,
  drawing: null,
  pinning: null,
  brush: 0.03,
  subject: null,
  subjectView: 'seen',
  subjectGround: '#000000',
  leftOut: [],
  newer: null,
  format: null,
  jobs: [],
  notices: [],
  refused: [],
  alone: false,
  commandsOpen: false,
  dragging: null,
  heard: undefined,
  graphicsLost: false,
}));

/** Everything about an exported file but what it holds. */
export interface ExportWay {
  readonly kind: string;
  /** Lines of its picture; null: as the montage. */
  readonly lines: number | null;
  readonly sound: SoundChoice;
  readonly quality: Quality;
  /** Megabits a second in place of a quality. */
  readonly megabits: number | null;
  /** What nothing touches is taken over as it came, where it can be. */
  readonly copy?: boolean;
}

/** Settings that stay with this browser. */
export const usePreferences = create(
  persist<{
    bigStep: number;
    /** Milliseconds by which sound comes later than the device says, as found by tapping. */
    soundLag: number;
    /** Pixels. */
    landscapeHeight: number;
    /** Null: as suits the window. */
    panelWidth: number | null;
    ladderHeight: number | null;
    /** Pixels of the pictures in the strip of frames. */
    stripHeight: number;
    /** Whether keys on an accent's end move with it; null: not asked yet. */
    closingKeys: boolean | null;
    /** Pictures are shown darker and flatter, for those whom flashes trouble; what is exported is not. */
    dimmed: boolean;
    /** What draws pictures: the graphics unit, the processor, or whichever suits. */
    renderer: RendererChoice;
    /** How files were exported last, and ways of it that were given a name. */
    exportAs: ExportWay;
    exportWays: Readonly<Record<string, ExportWay>>;
    /** Ids of the commands that were called by name last, the newest first. */
    recent: readonly string[];
    /** Keys of commands that a person set, by command. */
    keys: Readonly<Record<string, string>>;
  }>(
    () => ({
      bigStep: 10,
      soundLag: 0,
      landscapeHeight: 116,
      panelWidth: null,
      ladderHeight: null,
      stripHeight: 42,
      closingKeys: null,
      dimmed: false,
      renderer: 'auto',
      exportAs: { kind: 'mp4-h264', lines: null, sound: 'aac', quality: 'usual', megabits: null },
      exportWays: {},
      recent: [],
      keys: {},
    }),
    {
      name: 'akmeon-preferences',
    },
  ),
);

/** What draws in this visit: a graphics unit that was lost for good is not asked again. */
export const useRenderer = (): RendererChoice => {
  const lost = useView((s) => s.graphicsLost);
  const chosen = usePreferences((s) => s.renderer);
  return lost ? 'cpu' : chosen;
};
export const rendererNow = (): RendererChoice =>
  useView.getState().graphicsLost ? 'cpu' : usePreferences.getState().renderer;

let notices = 0;

export function notice(text: string, tone: Notice['tone'] = 'note', about?: string): void {
  const id = ++notices;
  useView.setState((s) => ({ notices: [...s.notices.slice(-3), { id, tone, text, about }] }));
  if (tone === 'note') setTimeout(() => dismiss(id), 7000);
}

/** Takes away what was said of trouble that is over. */
export const settled = (about: string): void =>
  useView.setState((s) => ({ notices: s.notices.filter((n) => n.tone !== 'error' || n.about !== about) }));

export const dismiss = (id: number): void =>
  useView.setState((s) => ({ notices: s.notices.filter((n) => n.id !== id) }));

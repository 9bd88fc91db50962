/** Words that documents use: each list is the check, the type and the menu. */
export const MONTAGE_VERSION = 5;
export const PROFILE_VERSION = 2;
export const ACCENT_VERSION = 2;

export const HIT_KINDS = [
  'shot',
  'impact',
  'kick',
  'snare',
  'hat',
  'note',
  'beat',
  'drop',
  'flash',
  'jolt',
  'strike',
  'popup',
  'cut',
  'join',
  'match',
  'mark',
] as const;
export type HitKind = (typeof HIT_KINDS)[number];

/** What a kind is called wherever it is shown: football has kicks, so a drum is none. */
export const kindName = (kind: HitKind): string => (kind === 'kick' ? 'bass drum' : kind);

/** The kind of this name, also as one word, or as documents have it. */
export const kindNamed = (name: string): HitKind | undefined =>
  HIT_KINDS.find((kind) =>
    [kind, kindName(kind), kindName(kind).replaceAll(' ', '')].includes(name.trim().toLowerCase()),
  );

/** What a person can make of a hit. */
export const DECISIONS = ['kept', 'rejected', 'made'] as const;
export type HitState = 'found' | (typeof DECISIONS)[number];

/** What a drawn path does to the subject's matte so far. */
export const PATH_DEEDS = ['adds', 'takes', 'keeps within'] as const;
export const KEYED_BY = ['brightness', 'colour'] as const;
/** What of the picture an accent acts on, where its source has a subject. */
export const ACTS = ['all', 'subject', 'behind'] as const;

/** `sound` and `overlay`: what accents bring along, which lies nowhere by itself. */
export const SOURCE_ROLES = ['footage', 'music', 'sound', 'overlay'] as const;
export const ofAccents = ({ role }: { readonly role: (typeof SOURCE_ROLES)[number] }): boolean =>
  role === 'sound' || role === 'overlay';

/** What is heard together and turned down together. */
export const LANES = ['clips', 'music', 'accents'] as const;
export type Lane = (typeof LANES)[number];
/** Which of them an accent changes. */
export const CHANGED_LANES = ['music', 'clips', 'both'] as const;
export const LANE_CHANGES = ['lower', 'low-pass', 'high-pass', 'echo', 'room'] as const;
export type LaneChange = (typeof LANE_CHANGES)[number];

/** Which moment of a sound lies where on its accent. */
export const SOUND_MOMENTS = ['begin', 'peak', 'end'] as const;
export type SoundMoment = (typeof SOUND_MOMENTS)[number];
export const SOUND_PLACES = ['hit', 'peak', 'start', 'end'] as const;
export type SoundPlace = (typeof SOUND_PLACES)[number];
/** How long an accent's sound is: as it is, cut where the accent ends, or stretched to the accent. */
export const SOUND_LENGTHS = ['whole', 'cut', 'stretched'] as const;
export type SoundLength = (typeof SOUND_LENGTHS)[number];
/** Which of several sounds is taken: one after another, or by the seed. */
export const SOUND_PICKS = ['turn', 'lot'] as const;

/** What a person says that a source holds: how likely shots and impacts are before anything is heard. */
export const CONTENTS = ['unsaid', 'firearms', 'blows', 'ball', 'drums', 'mixed'] as const;
export type Content = (typeof CONTENTS)[number];

/** What a person said of a family. */
export const ANSWERS = ['open', 'kept', 'rejected'] as const;

/** What is on a sound track: a voice makes no hits, music has beats and drops, `off` is left out. */
export const TRACK_ROLES = ['game', 'music', 'voice', 'off'] as const;
export type TrackRole = (typeof TRACK_ROLES)[number];

export const WATCH_MODES = ['appears', 'changes'] as const;

/** How a picture of another shape is shown: whole with bars, cut at its middle, or cut around its hits' focus. */
export const FITS = ['fit', 'fill', 'focus'] as const;

/** What becomes of the time that a ramp wins: the row grows, it is faster afterwards, or the clip ends earlier in its source. */
export const GAINED = ['kept', 'paid back', 'cut'] as const;

/** What is shown between two source frames: the one before, both mixed, or one made by their movement. */
export const BETWEENS = ['nearest', 'blended', 'moved'] as const;
export type Between = (typeof BETWEENS)[number];

/** What is heard where a clip is slower or faster: its sound with it, the same at its own pitch, at its own speed, or nothing. */
export const SLOWED_SOUNDS = ['follows', 'stretched', 'goes on', 'silent'] as const;
export type SlowedSound = (typeof SLOWED_SOUNDS)[number];

/** What a key's time counts from. `hit` where absent. */
export const ANCHORS = ['hit', 'start', 'end', 'clip', 'next'] as const;
export type Anchor = (typeof ANCHORS)[number];

export const EASING_NAMES = [
  'hold',
  'linear',
  'ease',
  'fast out',
  'slow out',
  'both slow',
  'overshoot',
  'bounce',
] as const;
export type EasingName = (typeof EASING_NAMES)[number];

/** Typefaces of titles: those that ship with Akmeon. */
export const TITLE_FONTS = ['sans', 'mono'] as const;
export const TITLE_SIDES = ['left', 'middle', 'right'] as const;
/** How a title comes and goes. */
export const TITLE_MOVES = ['cut', 'fade', 'drop', 'push', 'type', 'flicker'] as const;
export type TitleMove = (typeof TITLE_MOVES)[number];

/** How a clip follows from the one before it. */
export const JOINS = ['fade', 'flow'] as const;
export type JoinKind = (typeof JOINS)[number];
/** What hits are landed on: every beat, or the first of each bar. */
export const LANDING_BEATS = ['beats', 'bars'] as const;

/** Where a ramp's last step ends: after its frames, where the hit's movement ends, or at the next hit. */
export const RAMP_ENDS = ['steps', 'end', 'next'] as const;
export type RampEnd = (typeof RAMP_ENDS)[number];

export const SHAPE_KINDS = ['box', 'ellipse', 'band', 'path'] as const;
export type ShapeKind = (typeof SHAPE_KINDS)[number];
export const SHAPE_PARAM_NAMES = [
  'x',
  'y',
  'w',
  'h',
  'turn',
  'soft',
  'softLeft',
  'softRight',
  'softTop',
  'softBottom',
] as const;
export type ShapeParam = (typeof SHAPE_PARAM_NAMES)[number];

/** `add` widens what the shapes before it leave, `subtract` takes away from it, `intersect` keeps what is in both. */
export const COMBINE = ['add', 'subtract', 'intersect'] as const;

/** What an accent's time is counted in. `%` is a share of its lead before the hit, of its tail after it. */
export const TIME_UNITS = ['frames', 'ms', 'beats', '%'] as const;
export type TimeUnit = (typeof TIME_UNITS)[number];

/** What of the accent lies on the hit: frame 0 for `peak`. */
export const ALIGNS = ['start', 'peak', 'end'] as const;
/** What a bed does after its accent's tail: stays as it ends; holds what the accent is on the hit all along; begins again. */
export const LASTS = ['once', 'hold', 'repeat'] as const;
/** What happens to what reaches over a join. */
export const CONFINES = ['carry', 'cut', 'squeeze'] as const;
/** How borders are hidden: mirrored or stretched edge pixels, or the least enlargement over the accent or its whole shot. */
export const COVERS = ['mirror', 'clamp', 'accent', 'shot'] as const;
/** Where its tail ends: after its own length, or where something else is. */
export const UNTILS = ['tail', 'end', 'clip', 'next'] as const;

/** What comes after the last hit of a run: nothing once the accent's own tail is over, or the last value until the clip ends. */
export const AFTERS = ['plain', 'stay'] as const;
/** Which members of a burst a rule takes. */
export const BURST_MEMBERS = ['each', 'first', 'last', 'nth'] as const;
/** Which of a rule's accents lies on a hit: one after the other, or by lot. */
export const PICKS = ['turn', 'random'] as const;
/** Where a hit must lie among the beats that were kept: anywhere, on one, on none, or on this one of its bar. */
export const ON_BEATS = ['any', 'on', 'off', '1', '2', '3', '4'] as const;
/** What happens where accents meet: they lie on one another, the earlier one is cut off, or this rule's gives way. */
export const MEETS = ['over', 'cut', 'yield'] as const;

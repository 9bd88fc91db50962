/**
 * The document in one declaration: types.ts derives its types from it, the build its JSON Schema and
 * validator. Times are seconds unless a description says frames; every list has a largest length.
 */
import { Type, type Static } from 'typebox';
import { LIMITS } from './limits.ts';
import {
  ACCENT_VERSION,
  AFTERS,
  ALIGNS,
  ANCHORS,
  ANSWERS,
  BURST_MEMBERS,
  CHANGED_LANES,
  COMBINE,
  CONFINES,
  CONTENTS,
  COVERS,
  DECISIONS,
  EASING_NAMES,
  BETWEENS,
  FITS,
  GAINED,
  SLOWED_SOUNDS,
  HIT_KINDS,
  JOINS,
  LANDING_BEATS,
  LANE_CHANGES,
  LASTS,
  MEETS,
  MONTAGE_VERSION,
  ON_BEATS,
  PICKS,
  PROFILE_VERSION,
  RAMP_ENDS,
  PATH_DEEDS,
  KEYED_BY,
  ACTS,
  SHAPE_KINDS,
  SHAPE_PARAM_NAMES,
  SOUND_LENGTHS,
  SOUND_MOMENTS,
  SOUND_PICKS,
  SOUND_PLACES,
  SOURCE_ROLES,
  TIME_UNITS,
  TITLE_FONTS,
  TITLE_MOVES,
  TITLE_SIDES,
  TRACK_ROLES,
  UNTILS,
  WATCH_MODES,
} from './words.ts';

const { Object: object, Array: array, Optional: optional, Union: union, Null: none, Ref: ref } = Type;
const number = (minimum: number, maximum: number, description?: string) =>
  Type.Number({ minimum, maximum, ...(description && { description }) });
const whole = (minimum: number, maximum: number, description?: string) =>
  Type.Integer({ minimum, maximum, ...(description && { description }) });
const text = (maxLength: number) => Type.String({ maxLength });
const oneOf = <const T extends string[]>(words: readonly [...T]) => Type.Enum<T>(words);
const flag = Type.Boolean;

const id = () => Type.String({ minLength: 1, maxLength: 300 });
const share = (description?: string) => number(0, 1, description);
const seed = () => whole(0, 4294967295);
const gain = () => number(0, 2, 'Linear factor.');
const sourceTime = (description?: string) =>
  number(LIMITS.sourceTime.min, LIMITS.sourceTime.max, description ?? 'Source seconds.');
const seconds = (description?: string) => number(0, LIMITS.sourceTime.max, description);
const frames = (description?: string) => number(LIMITS.frames.min, LIMITS.frames.max, description);
const value = () => number(LIMITS.value.min, LIMITS.value.max);
const keyTime = () =>
  number(
    LIMITS.keyTime.min,
    LIMITS.keyTime.max,
    "In the accent's unit of time from the anchor; 0 is the anchor's frame.",
  );
const bytes = (maxLength: number) =>
  Type.String({ pattern: '^[A-Za-z0-9+/]*={0,2}$', maxLength, description: 'Base 64.' });

const colour = () => Type.String({ pattern: '^#[0-9a-fA-F]{6}$' });

const pixels = () => Type.Integer({ minimum: 2, maximum: 8192, multipleOf: 2 });

const listed = () =>
  array(union([none(), value()]), { maxItems: LIMITS.listed, description: 'null: the parameter does nothing.' });
const clock = () =>
  optional(
    Type.String({
      maxLength: 100,
      description: 'Generators of one accent with the same clock make the same decisions at the same frames.',
    }),
  );

const MONTAGE = {
  Rate: object(
    { num: whole(1, 1e6), den: whole(1, 1e5) },
    { description: 'Frames a second as an exact fraction, e.g. 30000/1001.' },
  ),
  Easing: union(
    [oneOf(EASING_NAMES), Type.Tuple([number(-20, 20), number(-20, 20), number(-20, 20), number(-20, 20)])],
    { description: 'A name, or x1, y1, x2, y2 of a cubic as in CSS Easing Functions Level 1.' },
  ),
  Envelope: union(
    [
      value(),
      array(
        object({
          at: keyTime(),
          value: value(),
          ease: ref('Easing'),
          anchor: optional(oneOf(ANCHORS)),
        }),
        { minItems: 1, maxItems: LIMITS.keys },
      ),
    ],
    {
      description:
        'A steady value, or keys in ascending order of `at`; `ease` says how the value runs to the next key.',
    },
  ),
  Generator: union([
    object(
      {
        kind: Type.Literal('noise'),
        clock: clock(),
        amount: ref('Envelope'),
        rate: ref('Envelope'),
        rough: share('Adds faster, smaller swings.'),
      },
      { description: 'Smooth random walk within +-amount; rate in swings a second.' },
    ),
    object({
      kind: Type.Literal('sine'),
      clock: clock(),
      amount: ref('Envelope'),
      rate: ref('Envelope'),
      phase: number(-1000, 1000, 'Swings: 0.25 begins at the top.'),
    }),
    object(
      { kind: Type.Literal('cadence'), clock: clock(), values: listed(), every: frames(), once: flag() },
      { description: 'Values in turn, each for `every` frames, in place of the envelope.' },
    ),
    object(
      { kind: Type.Literal('hold'), clock: clock(), amount: ref('Envelope'), every: frames() },
      { description: 'A new random value within +-amount every `every` frames.' },
    ),
    object(
      {
        kind: Type.Literal('pulses'),
        clock: clock(),
        amount: ref('Envelope'),
        rate: ref('Envelope'),
        length: frames(),
        spread: share('Varies their height.'),
      },
      { description: 'Jumps of +-amount at a mean rate a second, `length` frames long.' },
    ),
    object(
      {
        kind: Type.Literal('gate'),
        clock: clock(),
        amount: ref('Envelope'),
        period: frames(),
        open: frames(),
        chance: ref('Envelope'),
      },
      { description: 'Each `period` frames decides whether the next `open` frames add the amount; chance in %.' },
    ),
    object(
      { kind: Type.Literal('spread'), clock: clock(), amount: ref('Envelope') },
      { description: 'One random value within +-amount for the whole placement.' },
    ),
    object(
      {
        kind: Type.Literal('run'),
        clock: clock(),
        values: listed(),
        from: value(),
        to: value(),
        glide: union([none(), ref('Easing')]),
      },
      { description: 'One value for each hit of a run: listed, or divided evenly where the list is empty.' },
    ),
  ]),
  Param: union([ref('Envelope'), object({ base: ref('Envelope'), by: ref('Generator') })], {
    description: 'An envelope, or one that a generator moves.',
  }),
  Point: object({ x: share(), y: share() }, { description: 'A place in a picture, shares of its width and height.' }),
  PathPoint: object({ x: number(-1e5, 1e5), y: number(-1e5, 1e5), smooth: flag() }),
  RegionShape: object({
    id: id(),
    kind: oneOf(SHAPE_KINDS),
    combine: oneOf(COMBINE),
    invert: flag(),
    focus: optional(Type.Boolean({ description: "Its place counts from the hit's focus instead of the middle." })),
    params: Type.Partial(
      object(
        Object.fromEntries(SHAPE_PARAM_NAMES.map((name) => [name, ref('Envelope')])) as Record<
          (typeof SHAPE_PARAM_NAMES)[number],
          Type.TRef<'Envelope'>
        >,
        { additionalProperties: false },
      ),
    ),
    path: optional(
      array(object({ at: keyTime(), points: array(ref('PathPoint'), { maxItems: LIMITS.pathPoints }) }), {
        maxItems: LIMITS.keys,
        description: 'For a path: at least one, in order of `at`.',
      }),
    ),
  }),
  ColourTable: object(
    {
      name: text(300),
      size: whole(2, 65, 'A side; red runs fastest.'),
      values: bytes(2_300_000),
    },
    { description: 'Little-endian 16-bit unsigned numbers, 65535 being 1 in display light: 3 * size^3 of them.' },
  ),
  Repeat: object({
    times: whole(0, 64, 'How often beside the first.'),
    every: number(-1e5, 1e5, "Frames, at the accent's rate."),
    length: number(0.01, 100, "Each copy's length, times that of the one before."),
    strength: number(0, 10, "Each copy's strength, times that of the one before."),
  }),
  EffectUse: object({
    id: id(),
    effect: Type.String({ maxLength: 100, description: 'Effect id; unknown ones are kept and skipped.' }),
    version: whole(1, 1e6),
    on: flag(),
    focus: optional(
      Type.Boolean({ description: "Places among its parameters count from the hit's focus instead of the middle." }),
    ),
    params: Type.Record(Type.String(), ref('Param'), { maxProperties: 100 }),
    region: optional(
      array(ref('RegionShape'), {
        maxItems: 16,
        description: 'Where in the picture it acts; everywhere when absent or empty.',
      }),
    ),
    regionOf: optional(
      Type.String({ minLength: 1, maxLength: 300, description: 'The effect of this accent whose region it shares.' }),
    ),
    repeat: optional(ref('Repeat')),
    stack: optional(
      array(ref('EffectUse'), {
        maxItems: 16,
        description: `For effects that lay other frames over the picture: what is done to these. Nested ${LIMITS.stackDepth} deep at most.`,
      }),
    ),
    table: optional(ref('ColourTable')),
    source: optional(
      Type.String({ minLength: 1, maxLength: 100, description: 'The source that it lays over the picture.' }),
    ),
  }),
  Accent: object({
    id: id(),
    name: text(200),
    rate: ref('Rate'),
    lead: frames("Reach before the hit's frame: whole frames, or in `unit` when that is ms or beats."),
    tail: frames('Reach after it.'),
    seed: seed(),
    effects: array(ref('EffectUse'), { maxItems: LIMITS.effects }),
    unit: oneOf(TIME_UNITS),
    exact: Type.Boolean({ description: 'Frame counts are kept at any rate instead of scaling.' }),
    align: oneOf(ALIGNS),
    confine: oneOf(CONFINES),
    cover: oneOf(COVERS),
    until: oneOf(UNTILS),
    ramp: optional(ref('Ramp')),
    acts: optional(oneOf(ACTS)),
    overShields: optional(Type.Boolean({ description: 'Acts on shielded areas, too.' })),
    sounds: optional(array(ref('AccentSound'), { maxItems: LIMITS.sounds })),
    lanes: optional(
      array(ref('LaneMove'), {
        maxItems: LIMITS.sounds,
        description: 'What it does to the music and the sound of the clips.',
      }),
    ),
  }),
  SoundAsset: union([
    object(
      {
        made: Type.String({ minLength: 1, maxLength: 100, description: 'Unknown ones are kept and not heard.' }),
        params: Type.Record(Type.String(), value(), { maxProperties: 16 }),
      },
      { description: 'One that Akmeon makes.' },
    ),
    object(
      {
        file: Type.String({ pattern: '^[0-9a-f]{64}$', description: 'Fingerprint of a source of the montage.' }),
        name: text(500),
        duration: seconds(),
        peak: seconds('From its beginning to its loudest moment.'),
      },
      { description: 'A file.' },
    ),
  ]),
  AccentSound: object(
    {
      id: id(),
      on: flag(),
      choices: array(ref('SoundAsset'), { minItems: 1, maxItems: 32, description: 'One of these is heard.' }),
      pick: oneOf(SOUND_PICKS),
      moment: oneOf(SOUND_MOMENTS),
      place: oneOf(SOUND_PLACES),
      offset: number(-3600, 3600, "Frames at the accent's rate by which it comes later."),
      gain: ref('Envelope'),
      fadeIn: number(0, 60, 'Seconds.'),
      fadeOut: number(0, 60, 'Seconds.'),
      length: oneOf(SOUND_LENGTHS),
      semitones: number(LIMITS.semitones.min, LIMITS.semitones.max),
      reversed: flag(),
      focus: Type.Boolean({ description: "Heard from the side that the hit's focus is on." }),
      spreadGain: number(0, 24, 'Decibels to each side that placements differ by.'),
      spreadPitch: number(0, 12, 'Semitones to each side.'),
      follow: share("0: always as loud; 1: as loud as the placement's intensity says."),
    },
    { description: 'A sound of an accent. `gain`: decibels along the accent.' },
  ),
  LaneMove: object(
    {
      id: id(),
      on: flag(),
      lane: oneOf(CHANGED_LANES),
      change: oneOf(LANE_CHANGES),
      amount: number(
        0,
        LIMITS.cutoff.max,
        'Decibels down, 96 for silence; of a filter its frequency in hertz; of an echo milliseconds from one to the next; of a room seconds that it dies away in.',
      ),
      begins: number(-3600, 3600, "Frames at the accent's rate from the hit to where it begins; negative: before it."),
      attack: frames(),
      hold: frames(),
      release: frames(),
      adds: optional(Type.Boolean({ description: 'Goes on top of others instead of the deepest counting.' })),
    },
    { description: 'Lowers or filters what else is heard about a hit.' },
  ),
  Ramp: object(
    {
      before: whole(0, 600, 'Frames of it before the hit.'),
      steps: array(
        object({
          speed: number(0, LIMITS.speed.max, 'Share of the recorded speed; 0 stands still.'),
          frames: whole(1, 3600),
        }),
        { minItems: 1, maxItems: LIMITS.rampSteps },
      ),
      smooth: Type.Boolean({ description: 'Runs from each speed to the next, and from the last to that of the clip.' }),
      gained: oneOf(GAINED),
      until: optional(oneOf(RAMP_ENDS)),
      most: number(1, LIMITS.speed.max, 'Largest speed while time is paid back.'),
      between: oneOf(BETWEENS),
      sound: oneOf(SLOWED_SOUNDS),
    },
    { description: 'Slower or faster about a hit: steps in frames at the rate of the accent.' },
  ),
  Region: object(
    {
      x: share(),
      y: share(),
      w: Type.Number({ exclusiveMinimum: 0, maximum: 1 }),
      h: Type.Number({ exclusiveMinimum: 0, maximum: 1 }),
    },
    { description: "A rectangle in shares of the picture's width and height." },
  ),
  SubjectPath: object({
    id: id(),
    does: oneOf(PATH_DEEDS),
    keys: array(
      object({
        t: sourceTime(),
        found: optional(Type.Boolean({ description: 'Followed through the picture, not set by hand.' })),
        points: array(object({ x: number(-4, 5), y: number(-4, 5), smooth: flag() }), {
          minItems: 3,
          maxItems: LIMITS.subjectPoints,
          description: 'Shares of the upright picture.',
        }),
      }),
      { minItems: 1, maxItems: LIMITS.subjectKeys, description: 'Ascending; it runs evenly from one to the next.' },
    ),
  }),
  SubjectKey: object({
    by: oneOf(KEYED_BY),
    low: share(),
    high: share(),
    red: share(),
    green: share(),
    blue: share(),
    near: share(),
    soft: share(),
    invert: flag(),
    sees: optional(
      object(
        {
          contrast: number(0, 4),
          gamma: number(0.2, 5),
          saturation: number(0, 4),
          blur: number(0, 0.05, "Shares of the picture's height."),
        },
        { description: 'How the key sees the picture, which stays as it is; 1, 1, 1 and 0 where absent.' },
      ),
    ),
    spill: optional(
      Type.Number({ minimum: 0, maximum: 1, description: "How much of the key's colour is taken off the subject." }),
    ),
  }),
  Brushed: object(
    {
      strokes: array(
        object({
          t: sourceTime(),
          on: Type.Boolean({ description: 'It belongs to the subject; else it does not.' }),
          width: number(0.002, 0.2, "Shares of the picture's height."),
          points: array(object({ x: number(-4, 5), y: number(-4, 5) }), {
            minItems: 1,
            maxItems: LIMITS.strokePoints,
            description: 'Shares of the upright picture.',
          }),
        }),
        { maxItems: LIMITS.strokes },
      ),
      pieces: array(object({ from: sourceTime(), to: sourceTime(), frames: text(LIMITS.pieceText) }), {
        maxItems: LIMITS.pieces,
        description: 'Mattes grown from the strokes and carried on, ascending; see core/subject/pieces.ts.',
      }),
      people: optional(Type.Boolean({ description: 'People were found first; strokes mend what was found.' })),
    },
    { description: 'What was brushed over single frames, and the mattes that were made of it.' },
  ),
  Subject: object(
    {
      brushed: optional(ref('Brushed')),
      paths: array(ref('SubjectPath'), { maxItems: LIMITS.subjectPaths }),
      key: optional(ref('SubjectKey')),
      grow: number(-0.1, 0.1, "By which its edge lies further out, shares of the picture's height."),
      soft: number(0, 0.2, "Width of its edge, shares of the picture's height."),
      clean: optional(
        Type.Number({ minimum: 0, maximum: 1, description: 'How far its edge takes its colours from within it.' }),
      ),
    },
    {
      description:
        'Which part of a picture is kept apart from what is behind it: a key and what was brushed first, then paths in their order.',
    },
  ),
  Shield: object(
    {
      id: id(),
      region: ref('Region'),
      path: optional(
        array(object({ x: share(), y: share() }), {
          minItems: 3,
          maxItems: LIMITS.subjectPoints,
          description: 'Its outline within the region, shares of the upright picture; the whole region where absent.',
        }),
      ),
      soft: number(0, 0.5, "Width of its edge, shares of the picture's height."),
    },
    { description: 'An area of the picture that accents leave as it is.' },
  ),
  Sensitivity: Type.Partial(
    object(
      Object.fromEntries(HIT_KINDS.map((kind) => [kind, share()])) as Record<(typeof HIT_KINDS)[number], Type.TNumber>,
    ),
    { description: 'By kind of hit; 0.5 where absent.' },
  ),
  Tracks: array(oneOf(TRACK_ROLES), { maxItems: 64 }),
  Delay: union([none(), number(-2, 2)], {
    description: 'Seconds by which the sound comes after the picture; null: as estimated.',
  }),
  Watch: object(
    {
      id: id(),
      name: text(200),
      mode: oneOf(WATCH_MODES),
      region: ref('Region'),
      sensitivity: share(),
      sought: union(
        [
          none(),
          object({
            width: whole(1, 64),
            height: whole(1, 64),
            y: bytes(200_000),
            u: bytes(200_000),
            v: bytes(200_000),
            weight: bytes(200_000),
          }),
        ],
        { description: 'What is sought, each width * height bytes; null when watching for changes.' },
      ),
    },
    {
      description: 'A watched rectangle: hits of kind `popup` wherever the example appears in it, or anything changes.',
    },
  ),
  SoundExample: object(
    {
      id: id(),
      name: text(200),
      rows: bytes(200_000),
      lead: whole(0, 64, 'Rows before the attack.'),
      least: share('Least likeness.'),
      only: union([none(), id()], { description: 'The one source it is sought in; null: all.' }),
    },
    { description: 'A sound that more like it are sought of: hits of kind `match`.' },
  ),
  Hit: object({
    id: id(),
    source: id(),
    t: sourceTime('Timestamp of the contact frame, or the attack where there is no picture.'),
    audioT: optional(sourceTime('The attack in the sound.')),
    loud: optional(number(-200, 50, 'How loud the attack is heard, decibels below full scale.')),
    start: optional(sourceTime('Its movement begins.')),
    end: optional(sourceTime('Its movement ends.')),
    kind: oneOf(HIT_KINDS),
    strength: share(),
    confidence: share(),
    evidence: array(object({ detector: text(300), t: sourceTime(), strength: share() }), {
      maxItems: LIMITS.evidence,
      description: 'Which detector, when and how strong.',
    }),
    kinds: optional(
      Type.Partial(
        object(
          Object.fromEntries(HIT_KINDS.map((kind) => [kind, share()])) as Record<
            (typeof HIT_KINDS)[number],
            Type.TNumber
          >,
        ),
        { description: 'Probability of each kind it may be.' },
      ),
    ),
    focus: optional(ref('Point')),
    track: optional(
      array(object({ t: sourceTime(), x: share(), y: share() }), {
        maxItems: LIMITS.trackPoints,
        description: 'Where its focus moves with the picture, in order of time; before and after it stands still.',
      }),
    ),
    // What is kept in formats that are cut around the focus, where there is room; it moves with that.
    around: optional(ref('Region')),
    burst: optional(
      Type.String({
        minLength: 1,
        maxLength: 300,
        description: 'Close repeats share the id of their first; absent for a single hit.',
      }),
    ),
    state: oneOf(DECISIONS),
  }),
  NamedFamily: object(
    {
      id: id(),
      name: Type.String({ maxLength: 200, description: "In the person's own words; empty: named after its kind." }),
      kind: Type.Enum<(typeof HIT_KINDS)[number][]>(HIT_KINDS, { description: 'What its members count as.' }),
      state: oneOf(ANSWERS),
      members: array(id(), {
        maxItems: LIMITS.hits,
        description: 'Ids of the hits that it had when it was answered, or that were put into it.',
      }),
      examples: array(bytes(1000), {
        maxItems: LIMITS.familyExamples,
        description:
          'What some of its members sound like: 19 rows of 26 levels and 26 levels before them, a byte each.',
      }),
      loud: optional(ref('Within')),
      seen: optional(ref('Within')),
      more: union([none(), share()], {
        description: 'Likeness from which more of it is sought, below the sensitivity too; null: nothing is.',
      }),
    },
    { description: 'Hits that are the same thing again, named once by the person.' },
  ),
  Within: object(
    { from: number(-1000, 1000, 'Inclusive.'), to: number(-1000, 1000, 'Exclusive.') },
    { description: 'Of loudness: decibels below full scale. Of what is seen with it: strength 0-1.' },
  ),
  VideoInfo: object({
    width: whole(1, 16384, 'Upright display size in pixels, square pixels.'),
    height: whole(1, 16384),
    rotation: Type.Union([Type.Literal(0), Type.Literal(90), Type.Literal(180), Type.Literal(270)], {
      description: 'Clockwise turn from stored to upright, degrees.',
    }),
    codec: text(300),
    rate: ref('Rate'),
    count: whole(0, 1e9),
    first: sourceTime('Start of the first frame.'),
    variable: flag(),
  }),
  AudioTrackInfo: object({
    codec: text(300),
    channels: whole(1, 64),
    sampleRate: number(1000, 768000),
    name: text(1000),
    readable: Type.Boolean({ description: 'False where the browser cannot decode it.' }),
  }),
  GridEdit: object({
    bpm: union([none(), number(30, 300)], { description: 'Tapped beats a minute; the tracker looks near it.' }),
    pin: union([none(), sourceTime()], { description: 'Source seconds of a beat that is surely one.' }),
    times: Type.Union([Type.Literal(0.5), Type.Literal(1), Type.Literal(2)], {
      description: 'Beats for each tracked one: every second, each, or one between.',
    }),
    shift: number(-2, 2, 'Seconds by which all beats are late.'),
    bar: whole(-16, 16, 'Beats by which bars begin later.'),
  }),
  Source: object({
    id: id(),
    name: text(500),
    game: optional(Type.String({ maxLength: 200, description: 'The name of the profile that was applied to it.' })),
    role: oneOf(SOURCE_ROLES),
    fingerprint: Type.String({ pattern: '^[0-9a-f]{64}$', description: 'Hex SHA-256 of size and sampled bytes.' }),
    size: whole(0, Number.MAX_SAFE_INTEGER),
    duration: seconds('From 0 to the end of the longest track.'),
    video: union([none(), ref('VideoInfo')]),
    audio: array(ref('AudioTrackInfo'), { maxItems: 64 }),
    listen: union([none(), whole(0, 63)], {
      description: 'Index into `audio` of the track that is listened to and heard; null for none.',
    }),
    tracks: ref('Tracks'),
    delay: ref('Delay'),
    grid: ref('GridEdit'),
    content: oneOf(CONTENTS),
    mix: optional(
      array(gain(), {
        maxItems: 64,
        description: 'How loud each of its tracks is heard; where absent the one listened to is.',
      }),
    ),
    shields: optional(array(ref('Shield'), { maxItems: LIMITS.shields })),
    subject: optional(ref('Subject')),
    still: optional(Type.Boolean({ description: 'One picture, shown for as long as a clip of it lasts.' })),
  }),
  Clip: object({
    id: id(),
    source: id(),
    in: sourceTime('Inclusive.'),
    out: sourceTime('Exclusive.'),
    fit: oneOf(FITS),
    speed: optional(
      union([number(LIMITS.speed.min, LIMITS.speed.max), number(-LIMITS.speed.max, -LIMITS.speed.min)], {
        description: 'Share of the recorded speed, negative backwards; 1 where absent.',
      }),
    ),
    between: optional(oneOf(BETWEENS)),
    slowed: optional(oneOf(SLOWED_SOUNDS)),
    speeds: optional(
      array(
        object({
          at: whole(0, 10_000_000, 'Output frames since its first.'),
          speed: number(0, LIMITS.speed.max, 'Share of `speed`; 0 stands still.'),
          smooth: Type.Boolean({ description: 'Runs to the next speed instead of holding this one.' }),
        }),
        {
          minItems: 1,
          maxItems: LIMITS.pins,
          description: 'Speeds along it, ascending; the first holds before it, the last after it. It takes no ramps.',
        },
      ),
    ),
    join: optional(ref('Join')),
    sound: optional(ref('ClipSound')),
    pins: optional(
      array(object({ t: sourceTime(), at: whole(1, 10_000_000) }), {
        minItems: 1,
        maxItems: LIMITS.pins,
        description:
          'Source seconds that are shown on output frames since its first, ascending; it runs evenly from one to the next.',
      }),
    ),
    lineage: optional(
      Type.String({
        minLength: 1,
        maxLength: 300,
        description: 'The clip it was cut from, whose id its placements go on being named by; absent: itself.',
      }),
    ),
    gathered: optional(
      object(
        { hits: array(id(), { minItems: 1, maxItems: LIMITS.hits }), in: sourceTime(), out: sourceTime() },
        { description: 'The hits that it was gathered for, and its ends as gathering made them.' },
      ),
    ),
  }),
  ClipSound: object({
    gain: number(0, 4, 'Linear factor.'),
    mute: flag(),
    fadeIn: number(0, 60, 'Seconds.'),
    fadeOut: number(0, 60, 'Seconds.'),
    early: whole(0, 3600, 'Output frames that it is heard before it is seen.'),
    late: whole(0, 3600, 'Output frames that it goes on under the next clip.'),
  }),
  Join: object(
    {
      kind: oneOf(JOINS),
      frames: whole(1, LIMITS.joinFrames, 'Output frames about the cut, in which both clips are seen.'),
      ease: ref('Easing'),
    },
    { description: 'How a clip follows from the one before it: faded over, or by movement; a cut where absent.' },
  ),
  Landing: object(
    {
      every: oneOf(LANDING_BEATS),
      least: number(LIMITS.speed.min, LIMITS.speed.max, 'Slowest, a share of the recorded speed.'),
      most: number(LIMITS.speed.min, LIMITS.speed.max, 'Fastest.'),
      fixed: Type.Record(Type.String(), union([none(), object({ source: id(), t: sourceTime() })]), {
        maxProperties: LIMITS.hits,
        description: 'By the id of a hit: the moment of the music that it is to land on; null where it is let go.',
      }),
    },
    { description: 'How hits are landed on the music; they are landed again whenever music or clips move.' },
  ),
  MusicItem: object({
    id: id(),
    source: id(),
    at: number(0, LIMITS.montageSeconds, 'Montage seconds.'),
    in: sourceTime(),
    out: sourceTime(),
    gain: gain(),
    fadeIn: optional(seconds('Over which it comes in from silence.')),
    fadeOut: optional(seconds('Over which it goes out.')),
  }),
  Run: object({ count: whole(0, 10000, 'Hits in one run; 0: all that the rule takes.'), after: oneOf(AFTERS) }),
  Rule: object({
    id: id(),
    accents: array(object({ accent: id(), weight: number(0, 1000, 'How often it is drawn, against the others.') }), {
      minItems: 1,
      maxItems: 64,
    }),
    pick: oneOf(PICKS),
    on: flag(),
    kinds: array(oneOf(HIT_KINDS), { maxItems: 64 }),
    families: array(id(), { maxItems: 64, description: 'Named families, beside the kinds.' }),
    signs: optional(
      array(id(), { maxItems: 64, description: 'Watched rectangles whose appearances it takes, beside the kinds.' }),
    ),
    minStrength: share('Inclusive.'),
    follow: share("0: every placement at full intensity; 1: intensity equals the hit's strength."),
    maxStrength: share('Inclusive.'),
    loud: optional(ref('Within')),
    sections: optional(
      array(whole(0, 999), {
        maxItems: 64,
        description: 'Sections of the montage it is confined to: 0 before the first kept drop, n after the n-th.',
      }),
    ),
    burst: oneOf(BURST_MEMBERS),
    burstEvery: whole(1, 1000, "Of a burst every so-many-th member, where `burst` is 'nth'."),
    beat: oneOf(ON_BEATS),
    gap: number(0, LIMITS.montageSeconds, 'Least seconds between two hits that are taken.'),
    every: whole(1, 1000, 'Every so-many-th of the hits that are left.'),
    phase: whole(0, 999, 'How many of these are passed over before the first.'),
    chance: share('Of each hit to be taken, by the seed.'),
    clips: array(id(), { maxItems: LIMITS.clips, description: 'Clips it is confined to; none: all.' }),
    ranges: array(
      object({ from: seconds('Montage seconds, inclusive.'), to: seconds('Montage seconds, exclusive.') }),
      { maxItems: 64, description: 'Stretches of the montage it is confined to; none: all of it.' },
    ),
    apart: frames('Least output frames between its accents and those of rules before it, and among its own.'),
    meet: oneOf(MEETS),
    seed: seed(),
    mirror: Type.Boolean({ description: 'Every second placement is mirrored left to right.' }),
    spread: share('How far intensities spread at random about their value.'),
    run: union([none(), ref('Run')]),
  }),
  Stretch: union(
    [
      object({ kind: Type.Literal('all') }),
      object({ kind: Type.Literal('clip'), clip: id() }),
      object({ kind: Type.Literal('hits'), from: id(), to: id() }),
      object({ kind: Type.Literal('clips'), kinds: array(oneOf(HIT_KINDS), { maxItems: 64 }) }),
      object({ kind: Type.Literal('between'), from: oneOf(HIT_KINDS), to: oneOf(HIT_KINDS) }),
      object({ kind: Type.Literal('sections'), sections: array(whole(0, 999), { maxItems: 64 }) }),
    ],
    {
      description:
        'All of it; one clip; from hit to hit (the first occurrence of each counts); each clip that holds a hit of ' +
        'these kinds, of any kept kind where none is named; from each hit of a kind to the next of another; sections ' +
        'between kept drops, each of them where none is named.',
    },
  ),
  Bed: object({
    id: id(),
    accent: id(),
    on: flag(),
    stretch: ref('Stretch'),
    lasts: optional(oneOf(LASTS)),
    above: Type.Boolean({ description: 'Drawn over the accents instead of under them.' }),
    intensity: number(0, 2),
    seed: seed(),
    pin: optional(ref('Pin')),
  }),
  PinPlace: object({
    t: sourceTime(),
    x: number(-4, 5),
    y: number(-4, 5),
    turn: optional(number(-1000, 1000, 'Radians clockwise, against the first of them that was followed.')),
    scale: optional(number(0.001, 1000, 'Its size against that.')),
    sure: optional(number(0, 1)),
  }),
  Pin: object(
    {
      source: id(),
      at: sourceTime(),
      track: array(ref('PinPlace'), {
        minItems: 1,
        maxItems: LIMITS.trackPoints,
        description: 'Where, and how surely, that was found, shares of the upright picture; ascending.',
      }),
    },
    { description: 'It moves as something in the picture does, from where it was at this source time.' },
  ),
  TitlePlace: object({ x: number(-300, 300), y: number(-300, 300), size: number(0.5, 100) }),
  Title: object(
    {
      id: id(),
      on: flag(),
      text: Type.String({
        maxLength: LIMITS.titleText,
        description:
          'Lines; {n}, {of}, {kind}, {name}, {nth}, {score}, {game}, {time}, {frame}, {up} and {down} stand for what they ' +
          'are on a frame; after a colon clocks have a form (m, s, c, f), the score a kind or a name.',
      }),
      font: oneOf(TITLE_FONTS),
      own: optional(Type.String({ maxLength: 64, description: "One of the montage's own typefaces, in place of it." })),
      spacing: optional(number(-0.3, 3, 'Between letters, shares of the size.')),
      below: optional(Type.Boolean({ description: 'Under the accents: what they do to the picture they do to it.' })),
      size: number(0.5, 100, 'Height of a line, % of the frame height.'),
      weight: whole(100, 900),
      colour: colour(),
      box: union([none(), colour()], { description: 'Colour behind it.' }),
      outline: number(0, 0.3, 'Width of its dark outline, shares of its size.'),
      shadow: flag(),
      align: oneOf(TITLE_SIDES),
      x: number(-300, 300, 'Of its middle, or of the side it is aligned to; % of the frame height from the middle.'),
      y: number(-300, 300),
      safe: optional(
        Type.Boolean({
          description:
            'Kept within the safe area, smaller where it is too wide for it; where absent, in formats alone. A pinned one is not.',
        }),
      ),
      places: optional(
        Type.Record(Type.String(), ref('TitlePlace'), {
          maxProperties: LIMITS.formats,
          description:
            'Where it lies in formats, by their ids; in others as far to the side, in shares of their width.',
        }),
      ),
      where: union([
        ref('Stretch'),
        object(
          {
            kind: Type.Literal('each'),
            kinds: array(oneOf(HIT_KINDS), { maxItems: 64, description: 'None: any kept kind.' }),
            before: whole(0, 3600, 'Output frames before the hit.'),
            after: whole(0, 36_000, 'After it; it ends where that of the next hit begins.'),
          },
          { description: 'On each kept hit of these kinds.' },
        ),
      ]),
      comes: oneOf(TITLE_MOVES),
      goes: oneOf(TITLE_MOVES),
      comesBy: optional(Type.String({ maxLength: 64, description: 'An accent that acts on it as it comes.' })),
      goesBy: optional(Type.String({ maxLength: 64, description: 'An accent that acts on it as it goes.' })),
      over: whole(0, 600, 'Output frames in which it comes, and goes.'),
      pace: optional(number(0.01, 100, 'Seconds of its clocks in one of the montage.')),
      pin: optional(ref('Pin')),
    },
    { description: 'Text over the picture, and over or under everything on it.' },
  ),
  Typeface: object(
    {
      id: id(),
      name: text(200),
      data: Type.String({ minLength: 4, maxLength: LIMITS.typefaceText, description: 'The file, in base 64.' }),
    },
    { description: "A typeface of one's own for titles; it goes with the montage." },
  ),
  HandPlacement: object(
    {
      id: id(),
      accent: id(),
      on: Type.String({
        minLength: 1,
        maxLength: 700,
        description: 'The hit where the montage shows it: hit, at sign, clip or music.',
      }),
      intensity: number(0, 2),
      seed: seed(),
      nudge: optional(whole(-3600, 3600, 'Output frames.')),
      mute: optional(flag()),
      regions: optional(ref('OwnRegions')),
    },
    { description: 'An accent that was laid on one hit by hand, whatever the rules say.' },
  ),
  Override: object({
    mute: optional(flag()),
    nudge: optional(whole(-3600, 3600, 'Output frames.')),
    intensity: optional(number(0, 2, "Replaces the rule's.")),
    seed: optional(seed()),
    regions: optional(ref('OwnRegions')),
  }),
  OwnRegions: Type.Record(Type.String(), array(ref('RegionShape'), { maxItems: 16 }), {
    maxProperties: LIMITS.effects,
    description: 'Regions of one placement in place of those of its accent, by the ids of effects.',
  }),
  Format: object(
    {
      id: id(),
      name: text(200),
      width: pixels(),
      height: pixels(),
      fit: oneOf(FITS),
      fits: Type.Record(Type.String(), oneOf(FITS), {
        maxProperties: LIMITS.clips,
        description: 'Of clips, by their ids, that are framed otherwise.',
      }),
    },
    { description: 'A version of the montage in another shape, with its own framing.' },
  ),
  Settings: object({
    width: pixels(),
    height: pixels(),
    timing: union([
      object({ mode: Type.Literal('constant'), rate: ref('Rate') }),
      object({ mode: Type.Literal('source') }, { description: 'Every source frame once, with its own timestamp.' }),
    ]),
    clipGain: gain(),
    accentGain: optional(gain()),
    master: optional(
      object({
        gain: number(LIMITS.decibels.min, LIMITS.decibels.max, 'Decibels that the whole mix is turned up.'),
        ceiling: number(-24, 0, 'Decibels below full scale that no true peak passes.'),
        target: union([none(), number(-50, 0)], { description: 'LUFS that the gain was last set for.' }),
      }),
    ),
    framingSpeed: number(
      0.01,
      10,
      "Most of a picture's width or height that framing around a focus moves in a second.",
    ),
    fusionWindow: number(0, 0.5, 'Seconds within which what is heard and what is seen are one moment.'),
    bpm: number(10, 1000, 'Beats a minute, for accents that count in beats.'),
  }),
  Montage: object({
    format: Type.Literal('akmeon'),
    version: Type.Literal(MONTAGE_VERSION),
    id: id(),
    name: text(200),
    settings: ref('Settings'),
    sources: array(ref('Source'), { maxItems: LIMITS.sources }),
    clips: array(ref('Clip'), { maxItems: LIMITS.clips }),
    music: array(ref('MusicItem'), { maxItems: LIMITS.music }),
    hits: array(ref('Hit'), {
      maxItems: LIMITS.hits,
      description: 'Only decisions: kept, rejected and hand-made hits. Found ones come from the signals.',
    }),
    accents: array(ref('Accent'), { maxItems: LIMITS.accents }),
    rules: array(ref('Rule'), { maxItems: LIMITS.rules }),
    byHand: array(ref('HandPlacement'), { maxItems: LIMITS.overrides }),
    beds: array(ref('Bed'), { maxItems: LIMITS.beds }),
    titles: optional(array(ref('Title'), { maxItems: LIMITS.titles })),
    typefaces: optional(array(ref('Typeface'), { maxItems: LIMITS.typefaces })),
    overrides: Type.Record(Type.String(), ref('Override'), {
      maxProperties: LIMITS.overrides,
      description: 'By placement: rule, bar, hit, at sign, clip.',
    }),
    landing: optional(ref('Landing')),
    sensitivity: ref('Sensitivity'),
    watches: array(ref('Watch'), { maxItems: LIMITS.watches }),
    examples: array(ref('SoundExample'), { maxItems: LIMITS.examples }),
    families: array(ref('NamedFamily'), { maxItems: LIMITS.families }),
    formats: array(ref('Format'), { maxItems: LIMITS.formats }),
    forgotten: array(id(), {
      maxItems: LIMITS.hits,
      description: 'Ids of decided hits that no longer teach how undecided ones are ranked.',
    }),
  }),
  Profile: object({
    format: Type.Literal('akmeon-profile'),
    version: Type.Literal(PROFILE_VERSION),
    name: Type.String({ minLength: 1, maxLength: 200 }),
    watches: array(ref('Watch'), { maxItems: LIMITS.watches }),
    examples: array(ref('SoundExample'), { maxItems: LIMITS.examples }),
    delay: ref('Delay'),
    tracks: ref('Tracks'),
    sensitivity: ref('Sensitivity'),
    families: array(ref('NamedFamily'), { maxItems: LIMITS.families }),
    content: oneOf(CONTENTS),
    shields: optional(array(ref('Shield'), { maxItems: LIMITS.shields })),
  }),
  AccentFile: object({
    format: Type.Literal('akmeon-accent'),
    version: Type.Literal(ACCENT_VERSION),
    accents: array(ref('Accent'), { minItems: 1, maxItems: LIMITS.effects }),
    picture: optional(
      Type.String({ pattern: '^data:image/(png|jpeg|webp);base64,[A-Za-z0-9+/=]*$', maxLength: 400_000 }),
    ),
  }),
} as const;

/** Read-only all the way down; what may be absent may also be undefined. */
type Kept<T> = T extends readonly unknown[]
  ? { readonly [K in keyof T]: Kept<T[K]> }
  : T extends object
    ? string extends keyof T
      ? { readonly [K in keyof T]: Kept<T[K]> }
      : { readonly [K in keyof T]: object extends Pick<T, K> ? Kept<T[K]> | undefined : Kept<T[K]> }
    : T;
/** The type of one part of the document. */
export type Of<K extends keyof typeof MONTAGE> = Kept<Static<(typeof MONTAGE)[K], typeof MONTAGE>>;

/** Each of our files with its root and its title; the build writes `<name>.schema.json` and its validator. */
const FILES = [
  {
    name: 'akmeon',
    root: 'Montage',
    title: 'Akmeon montage',
    description: 'A montage in one file (.akmeon). Times are seconds unless a name says frames.',
  },
  {
    name: 'profile',
    root: 'Profile',
    title: 'Akmeon profile',
    description: 'What is known of one game or hall (.akmeon-profile).',
  },
  {
    name: 'accent',
    root: 'AccentFile',
    title: 'Akmeon accents',
    description: 'One or more accents for passing on (.akmeon-accent).',
  },
] as const;

/** JSON Schemas (draft 7) of all files, each with the definitions that it reaches. */
export function schemas(): { readonly name: string; readonly schema: Readonly<Record<string, unknown>> }[] {
  const all = JSON.parse(
    JSON.stringify(MONTAGE, (key, part: unknown) => (key === '$ref' ? `#/definitions/${part as string}` : part)),
  ) as Record<string, unknown>;
  return FILES.map(({ name, root, title, description }) => {
    const reached = new Set<string>();
    const reach = (part: unknown): void => {
      for (const [, to] of JSON.stringify(part).matchAll(/"#\/definitions\/(\w+)"/g)) {
        if (reached.has(to!)) continue;
        reached.add(to!);
        reach(all[to!]);
      }
    };
    reach(all[root]);
    return {
      name,
      schema: {
        $schema: 'http://json-schema.org/draft-07/schema#',
        $id: `akmeon-${name}-${MONTAGE_VERSION}`,
        title,
        description,
        ...(all[root] as object),
        definitions: Object.fromEntries([...reached].sort().map((key) => [key, all[key]])),
      },
    };
  });
}

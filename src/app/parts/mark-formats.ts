/** Endings of files that marks are read from, and what they are written as; the formats themselves are fetched when they are used. */
export const READ_MARKS = '.csv,.tsv,.vtt,.otio,.edl,.wav,.mid,.midi,.txt';
export const WRITTEN_MARKS = {
  csv: 'a table (CSV)',
  webvtt: 'WebVTT chapters',
  otio: 'OpenTimelineIO',
  cmx3600: 'a decision list',
  'wave-cues': 'WAV cue points',
  midi: 'MIDI',
  plain: 'a list of times',
} as const;

/**
 * READ FIRST: a list of the stages from signals to passes, in their order, each a pure function. Nothing runs through this
 * file: the engine's threads call the first and the last of them, `app/stores/derived.ts` those between.
 */
export { occurrences } from './timeline/occurrences.ts';
export { mergeHits } from './finding/hits/merge.ts';
export { SoundAnalyser } from './finding/signals/sound.ts'; // samples -> onset function, band levels, attacks with their kinds
export { PictureAnalyser } from './finding/signals/picture.ts'; // luma -> brightness, change, movement
export { findHits } from './finding/detectors/index.ts'; // signals x sensitivity, examples, watches -> found hits, fused
// found x decisions -> hits -> montage frames
export { timeline } from './timeline/timeline.ts'; // clips -> which source frame each montage frame shows
export { placements } from './accents/placements.ts'; // hits x rules -> accents on frames
export { prepare } from './accents/prepare.ts'; // an accent at a place -> all its times in output frames
export { accentPasses } from './accents/passes.ts'; // an accent at a frame -> numbers, random ones included
export { plan, planner } from './accents/plan.ts'; // montage, frame -> picture and passes
export { soundPlan } from './sound/sound-plan.ts'; // montage -> what is heard when

/** All effects. To add one: a file beside this one and a line here. */
import type { EffectRegistry, EffectSpec } from '../core/accents/effect-spec.ts';
import { blocks } from './blocks.ts';
import { flash } from './flash.ts';
import { punch } from './punch.ts';
import { shake } from './shake.ts';
import { split } from './split.ts';

export const EFFECT_LIST: readonly EffectSpec[] = [punch, shake, flash, split, blocks];

export const EFFECTS: EffectRegistry = new Map(EFFECT_LIST.map((effect) => [effect.id, effect]));

/** All effects. To add one: a file in its group's folder and a line here. */
import type { EffectRegistry, EffectSpec, Kernel } from '../core/accents/effect-spec.ts';
import { curves } from './colour/curves.ts';
import { dropout } from './colour/dropout.ts';
import { adapted, flash } from './colour/flash.ts';
import { grain } from './colour/grain.ts';
import { hue } from './colour/hue.ts';
import { levels } from './colour/levels.ts';
import { lut } from './colour/lut.ts';
import { negative } from './colour/negative.ts';
import { saturation } from './colour/saturation.ts';
import { smear, split } from './colour/split.ts';
import { tint } from './colour/tint.ts';
import { vignette } from './colour/vignette.ts';
import { dust } from './light/dust.ts';
import { edges } from './light/edges.ts';
import { flow } from './light/flow.ts';
import { gauss } from './light/gauss.ts';
import { bright, glow, lit } from './light/glow.ts';
import { leak } from './light/leak.ts';
import { rain } from './light/rain.ts';
import { rays } from './light/rays.ts';
import { rush } from './light/rush.ts';
import { scanlines } from './light/scanlines.ts';
import { shutter } from './light/shutter.ts';
import { soft } from './light/soft.ts';
import { sparks } from './light/sparks.ts';
import { backdrop, rim } from './light/looks.ts';
import { spin } from './light/spin.ts';
import { streak } from './light/streak.ts';
import { blocks } from './move/blocks.ts';
import { flip } from './move/flip.ts';
import { fold } from './move/fold.ts';
import { mosaic } from './move/mosaic.ts';
import { punch } from './move/punch.ts';
import { rattle } from './move/rattle.ts';
import { shake } from './move/shake.ts';
import { slide } from './move/slide.ts';
import { swim } from './move/swim.ts';
import { tear } from './move/tear.ts';
import { wave } from './move/wave.ts';
import { shrink } from './shrink.ts';
import { blink } from './time/blink.ts';
import { freeze } from './time/freeze.ts';
import { laid, layer, matted, parted } from './time/layer.ts';
import { overlay } from './time/overlay.ts';
import { stutter } from './time/stutter.ts';
import { sweep } from './time/sweep.ts';
import { trail } from './time/trail.ts';

export const EFFECT_LIST: readonly EffectSpec[] = [
  punch,
  shake,
  rattle,
  flip,
  slide,
  swim,
  wave,
  blocks,
  tear,
  fold,
  mosaic,
  flash,
  negative,
  dropout,
  split,
  tint,
  saturation,
  levels,
  curves,
  lut,
  hue,
  vignette,
  grain,
  soft,
  streak,
  rush,
  spin,
  shutter,
  glow,
  rays,
  edges,
  scanlines,
  dust,
  rain,
  leak,
  sparks,
  freeze,
  stutter,
  trail,
  sweep,
  layer,
  blink,
];

export const EFFECTS: EffectRegistry = new Map(EFFECT_LIST.map((effect) => [effect.id, effect]));

/** Kernels that effects are drawn with, their own ones included. */
export const KERNELS: ReadonlyMap<string, Kernel> = new Map(
  [
    ...EFFECT_LIST.filter((e) => e.glsl),
    adapted,
    smear,
    shrink,
    gauss,
    flow,
    bright,
    lit,
    backdrop,
    rim,
    overlay,
    matted,
    parted,
    laid,
  ].map((kernel) => [kernel.id, kernel]),
);

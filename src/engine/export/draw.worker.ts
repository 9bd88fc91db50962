import * as Comlink from 'comlink';
import { carryErrors } from '../errors.ts';
import { announceLife } from '../jobs/life.ts';
import type { Lowered } from '../render/groups.ts';
import { LanesRenderer } from '../render/lanes/lanes-renderer.ts';

carryErrors();

const renderer = new LanesRenderer(null);
const api = {
  planes(frame: Lowered, width: number, height: number) {
    const planes = renderer.planesOf(frame, width, height);
    return Comlink.transfer(planes, [planes.buffer]);
  },
};
export type DrawApi = typeof api;
Comlink.expose(api);
announceLife();

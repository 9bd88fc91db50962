/** A helper of the processor's renderer: draws the bands of rows that it is given. */
import { DONE, READY, type Band, type Start } from './bands.ts';

type Run = (from: number, to: number, thread: number) => void;

let start: Start | null = null;
const programs = new Map<number, Run>();

onmessage = ({ data }: MessageEvent<Start | Band>) => {
  if ('memory' in data) {
    start = data;
    Atomics.add(data.control, READY, 1);
    return;
  }
  const { program, module, from, to, thread } = data;
  const { memory, control } = start!;
  if (module) programs.set(program, new WebAssembly.Instance(module, { env: { memory } }).exports['run'] as Run);
  programs.get(program)!(from, to, thread);
  Atomics.add(control, DONE, 1);
  Atomics.notify(control, DONE);
};

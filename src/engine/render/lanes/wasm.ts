/**
 * Writes WebAssembly modules: functions over 128-bit lanes, one imported memory. Source: WebAssembly Core Specification 2.0,
 * W3C 2022, chapter 5 (binary format).
 */

export const I32 = 0x7f;
export const V128 = 0x7b;
export type ValueType = typeof I32 | typeof V128;

/** Unsigned LEB128. */
export function leb(value: number): number[] {
  const out: number[] = [];
  let rest = value >>> 0;
  do {
    const byte = rest & 0x7f;
    rest >>>= 7;
    out.push(rest ? byte | 0x80 : byte);
  } while (rest);
  return out;
}

/** Signed LEB128 of 32 bits. */
function sleb(value: number): number[] {
  const out: number[] = [];
  let rest = value | 0;
  for (;;) {
    const byte = rest & 0x7f;
    rest >>= 7;
    const done = (rest === 0 && !(byte & 0x40)) || (rest === -1 && byte & 0x40);
    out.push(done ? byte : byte | 0x80);
    if (done) return out;
  }
}

const section = (id: number, content: readonly number[]): number[] => [id, ...leb(content.length), ...content];
const list = (items: readonly (readonly number[])[]): number[] => [...leb(items.length), ...items.flat()];
const text = (value: string): number[] => [...leb(value.length), ...[...value].map((c) => c.charCodeAt(0))];

/** Instructions without a prefix. */
export const OP = {
  block: 0x02,
  loop: 0x03,
  if: 0x04,
  else: 0x05,
  end: 0x0b,
  br: 0x0c,
  brIf: 0x0d,
  call: 0x10,
  localGet: 0x20,
  localSet: 0x21,
  globalGet: 0x23,
  globalSet: 0x24,
  i32Load: 0x28,
  i32Const: 0x41,
  i32Eqz: 0x45,
  i32LtS: 0x48,
  i32Add: 0x6a,
  i32Mul: 0x6c,
  i32Shl: 0x74,
  i32ShrU: 0x76,
  empty: 0x40,
} as const;

/** Instructions on lanes, behind the prefix 0xfd. */
export const LANES = {
  load: 0,
  load32Splat: 9,
  store: 11,
  const: 12,
  shuffle: 13,
  splatI32: 17,
  extractI32: 27,
  replaceI32: 28,
  i32eq: 55,
  i32ne: 56,
  i32ltS: 57,
  i32ltU: 58,
  i32gtS: 59,
  i32gtU: 60,
  i32leS: 61,
  i32leU: 62,
  i32geS: 63,
  i32geU: 64,
  f32eq: 65,
  f32ne: 66,
  f32lt: 67,
  f32gt: 68,
  f32le: 69,
  f32ge: 70,
  not: 77,
  and: 78,
  andnot: 79,
  or: 80,
  xor: 81,
  bitselect: 82,
  anyTrue: 83,
  f32ceil: 103,
  f32floor: 104,
  f32trunc: 105,
  f32nearest: 106,
  i32shl: 171,
  i32shrS: 172,
  i32shrU: 173,
  i32add: 174,
  i32sub: 177,
  i32mul: 181,
  i32minS: 182,
  i32minU: 183,
  i32maxS: 184,
  i32maxU: 185,
  f32abs: 224,
  f32neg: 225,
  f32sqrt: 227,
  f32add: 228,
  f32sub: 229,
  f32mul: 230,
  f32div: 231,
  f32pmin: 234,
  f32pmax: 235,
  i32truncS: 248,
  i32truncU: 249,
  f32convertS: 250,
  f32convertU: 251,
} as const;

export const lanes = (op: number): number[] => [0xfd, ...leb(op)];
export const get = (local: number): number[] => [OP.localGet, ...leb(local)];
export const set = (local: number): number[] => [OP.localSet, ...leb(local)];
export const i32 = (value: number): number[] => [OP.i32Const, ...sleb(value)];

interface Wasm {
  readonly params: readonly ValueType[];
  readonly results: readonly ValueType[];
  readonly locals: readonly ValueType[];
  readonly code: readonly number[];
}

/**
 * A module that imports `env.memory`, with functions in their order, lanes as globals, and one function that is called from outside.
 */
export function writeModule(functions: readonly Wasm[], globals: number, exported: number): Uint8Array<ArrayBuffer> {
  const types: string[] = [];
  const typeOf = ({ params, results }: Wasm): number => {
    const key = JSON.stringify([params, results]);
    const at = types.indexOf(key);
    return at >= 0 ? at : types.push(key) - 1;
  };
  const used = functions.map(typeOf);
  const typeList = types.map((key) => {
    const [params, results] = JSON.parse(key) as [number[], number[]];
    return [0x60, ...leb(params.length), ...params, ...leb(results.length), ...results];
  });
  const bodies = functions.map(({ locals, code }) => {
    const body = [...list(locals.map((type) => [1, type])), ...code, OP.end];
    return [...leb(body.length), ...body];
  });
  const zero = [V128, 1, ...lanes(LANES.const), ...new Array<number>(16).fill(0), OP.end];
  return Uint8Array.from([
    ...[0, 0x61, 0x73, 0x6d, 1, 0, 0, 0],
    ...section(1, list(typeList)),
    ...section(2, list([[...text('env'), ...text('memory'), 2, 0, 1]])),
    ...section(3, list(used.map(leb))),
    ...(globals ? section(6, list(Array.from({ length: globals }, () => zero))) : []),
    ...section(7, list([[...text('run'), 0, ...leb(exported)]])),
    ...section(10, list(bodies)),
  ]);
}

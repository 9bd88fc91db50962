/**
 * Compiles a shader to WebAssembly that draws four neighbouring pixels at once: a float is four lanes, a condition a mask.
 * What all pixels share (uniforms, and what is worked out of them alone) branches; what differs is done for all and
 * chosen by mask. Source of the method: M. Pharr, W. R. Mark, "ispc: A SPMD compiler for high-performance CPU
 * programming", InPar 2012.
 */
import { parseGlsl, type Expr, type Parameter, type Routine, type Statement, type Unit } from './glsl.ts';
import { constant, Emitter, int, type Lanes, type Made, type Scalar } from './emitter.ts';
import { LIBRARY, OURS } from './library.ts';
import { Pixels } from './pixels.ts';
import { get, i32, I32, LANES, lanes, leb, OP, set, V128, writeModule, type ValueType } from './wasm.ts';

/** Where uniforms begin in the memory, and bytes that they and arrays of functions may take. */
export const UNIFORMS = 1024;
const UNIFORM_BYTES = 1 << 16;

/** Where pictures may begin. */
export const PICTURES = UNIFORMS + UNIFORM_BYTES;

/** Bytes of what a sampler is: address of its first pixel, width, height, pixels from row to row; its depth for tables. */
const SAMPLER_BYTES = 16;

export interface Place {
  /** Address, and numbers that lie there: 4 bytes each. */
  readonly at: number;
  readonly count: number;
}

interface Compiled {
  readonly bytes: Uint8Array<ArrayBuffer>;
  /** Uniforms by the names that `groupUniforms` gives them, and samplers. */
  readonly places: ReadonlyMap<string, Place>;
}

interface Value {
  readonly scalar: Scalar;
  readonly parts: readonly Lanes[];
  /** The same in all lanes of all pixels. */
  readonly uniform: boolean;
}
/** A struct or an array in memory: instructions that leave its address. */
interface Reference {
  readonly type: string;
  readonly size: number;
  readonly address: readonly number[];
  /** Of an array whose elements each hold four lanes. */
  readonly wide?: boolean;
}
interface Variable {
  readonly scalar: Scalar;
  readonly locals: readonly number[];
  readonly uniform: boolean;
  readonly global?: boolean;
}
const isReference = (thing: Value | Reference): thing is Reference => 'address' in thing;

const COUNT: Record<string, number> = { vec2: 2, vec3: 3, vec4: 4 };
/** Scalar and number of parts of a type; null for structs and samplers. */
function shapeOf(type: string): { scalar: Scalar; count: number } | null {
  const [, kind, vector] = /^([ui]?)(vec[234])$/.exec(type) ?? [];
  if (vector) return { scalar: kind === 'u' ? 'uint' : kind === 'i' ? 'int' : 'float', count: COUNT[vector]! };
  return ['float', 'int', 'uint', 'bool'].includes(type) ? { scalar: type as Scalar, count: 1 } : null;
}

const ARITHMETIC: Record<string, Partial<Record<Scalar, number>>> = {
  '+': { float: LANES.f32add, int: LANES.i32add, uint: LANES.i32add },
  '-': { float: LANES.f32sub, int: LANES.i32sub, uint: LANES.i32sub },
  '*': { float: LANES.f32mul, int: LANES.i32mul, uint: LANES.i32mul },
  '/': { float: LANES.f32div },
  '&': { int: LANES.and, uint: LANES.and },
  '|': { int: LANES.or, uint: LANES.or },
  '^': { int: LANES.xor, uint: LANES.xor },
};
const COMPARISONS: Record<string, Partial<Record<Scalar, number>>> = {
  '<': { float: LANES.f32lt, int: LANES.i32ltS, uint: LANES.i32ltU },
  '>': { float: LANES.f32gt, int: LANES.i32gtS, uint: LANES.i32gtU },
  '<=': { float: LANES.f32le, int: LANES.i32leS, uint: LANES.i32leU },
  '>=': { float: LANES.f32ge, int: LANES.i32geS, uint: LANES.i32geU },
  '==': { float: LANES.f32eq, int: LANES.i32eq, uint: LANES.i32eq },
  '!=': { float: LANES.f32ne, int: LANES.i32ne, uint: LANES.i32ne, bool: LANES.xor },
};
/** Instructions of one operand on floats. */
const PLAIN: Record<string, number> = {
  sqrt: LANES.f32sqrt,
  floor: LANES.f32floor,
  ceil: LANES.f32ceil,
  trunc: LANES.f32trunc,
  round: LANES.f32nearest,
};

/** Names that are assigned to anywhere in statements. */
function assigned(body: readonly Statement[], into = new Set<string>()): Set<string> {
  for (const one of body) {
    if (one.kind === 'assign') into.add(one.name);
    else if (one.kind === 'block') assigned(one.body, into);
    else if (one.kind === 'if') assigned([one.then, ...(one.otherwise ? [one.otherwise] : [])], into);
    else if (one.kind === 'for') assigned([one.first, one.step, one.body], into);
  }
  return into;
}
const returns = (one: Statement): boolean =>
  one.kind === 'return' ||
  (one.kind === 'block' && one.body.some(returns)) ||
  (one.kind === 'if' && (returns(one.then) || (one.otherwise !== null && returns(one.otherwise)))) ||
  (one.kind === 'for' && returns(one.body));

/** Letters of a function's tree up to which it is written out where it is called, and bytes of code up to which others are. */
const SMALL = 4000;
const MOST_CODE = 48_000;
/** Called on few pixels, or dear themselves. */
const SELDOM = new Set(['pow', 'gradientNoise', 'pcg']);

class Program {
  readonly places = new Map<string, Place>();
  private readonly references = new Map<string, Reference>();
  private readonly samplers = new Map<string, { at: number; type: string }>();
  readonly globals = new Map<string, Variable>();
  readonly functions: Made[] = [];
  private readonly indices = new Map<string, number>();
  private end = UNIFORMS;
  globalCount = 0;

  constructor(readonly unit: Unit) {
    for (const { type, name, size } of unit.uniforms.values()) {
      if (type.includes('sampler')) {
        this.samplers.set(name, { at: this.reserve(name, SAMPLER_BYTES / 4), type });
        continue;
      }
      const at = this.end;
      const fields = unit.structs.get(type);
      for (let i = 0; i < Math.max(1, size); i++) {
        const of = size ? `${name}[${i}]` : name;
        if (fields) for (const field of fields) this.reserve(`${of}.${field.name}`, shapeOf(field.type)!.count);
        else this.reserve(of, shapeOf(type)!.count);
      }
      // A list of vectors is written at once.
      if (size && !fields) this.places.set(`${name}[0]`, { at, count: (this.end - at) / 4 });
      this.references.set(name, { type, size, address: i32(at) });
    }
    for (const { type, name } of unit.globals.values()) {
      const shape = shapeOf(type)!;
      const locals = Array.from({ length: shape.count }, () => this.globalCount++);
      this.globals.set(name, { scalar: shape.scalar, locals, uniform: true, global: true });
    }
  }

  /** Instructions for the address of an array of a function, 16 bytes an element. */
  scratch(elements: number): number[] {
    this.end = (this.end + 15) & ~15;
    const at = this.end;
    this.end += 16 * elements;
    this.check();
    return i32(at);
  }

  private reserve(name: string, count: number): number {
    const at = this.end;
    this.places.set(name, { at, count });
    this.end += 4 * count;
    this.check();
    return at;
  }

  private check(): void {
    if (this.end > UNIFORMS + UNIFORM_BYTES) throw new RangeError('more uniforms than a frame may have');
  }

  sizeOf(type: string): number {
    const fields = this.unit.structs.get(type);
    return fields ? fields.reduce((sum, field) => sum + this.sizeOf(field.type), 0) : 4 * shapeOf(type)!.count;
  }

  reference(name: string): Reference | undefined {
    return this.references.get(name);
  }
  sampler(name: string): { at: number; type: string } {
    const found = this.samplers.get(name);
    if (!found) throw new SyntaxError(`GLSL: ${name} is no sampler`);
    return found;
  }

  routine(name: string): Routine | undefined {
    return this.unit.routines.get(name);
  }

  /** Index of a function, compiled when it is first asked for. */
  index(name: string): number {
    const known = this.indices.get(name);
    if (known !== undefined) return known;
    const routine = this.routine(name)!;
    return this.add(
      name,
      routine.params.flatMap((p) =>
        this.isPassedByAddress(p) ? [I32] : Array.from({ length: shapeOf(p.type)!.count }, () => V128),
      ),
      shapeOf(routine.type)?.count ?? 0,
      (made) => new Body(this, made).routine(routine),
    );
  }

  /** Index of a function that is written by hand. */
  add(name: string, params: readonly ValueType[], results: number, write: (made: Made) => void): number {
    const known = this.indices.get(name);
    if (known !== undefined) return known;
    const made: Made = { params, results: Array.from({ length: results }, () => V128), locals: [], code: [] };
    const index = this.functions.push(made) - 1;
    this.indices.set(name, index);
    write(made);
    return index;
  }

  private readonly small = new Map<Routine, boolean>();
  /** Whether a function is written out where it is called. */
  isSmall(routine: Routine): boolean {
    let small = this.small.get(routine);
    if (small === undefined)
      this.small.set(routine, (small = JSON.stringify(routine.body).length < SMALL && !SELDOM.has(routine.name)));
    return small;
  }

  isPassedByAddress({ type, size }: Parameter): boolean {
    return size > 0 || shapeOf(type) === null;
  }
}

/** Writes the body of one function. */
class Body extends Emitter {
  private scopes: Map<string, Variable | Reference>[] = [new Map()];
  private mask: Lanes | null = null;
  /** Lanes that have not returned yet; absent where none returns early. */
  private live: number | null = null;
  private results: readonly number[] = [];
  private depth = 0;
  private loops: { alive: number | null; exit: number }[] = [];
  private changed: ReadonlySet<string> = new Set();

  constructor(
    private readonly program: Program,
    made: Made,
  ) {
    super(made);
  }

  routine(routine: Routine): void {
    let at = 0;
    for (const param of routine.params) {
      if (this.program.isPassedByAddress(param)) {
        this.scopes[0]!.set(param.name, { type: param.type, size: param.size, address: get(at++) });
        continue;
      }
      const { scalar, count } = shapeOf(param.type)!;
      const locals = Array.from({ length: count }, () => at++);
      this.scopes[0]!.set(param.name, { scalar, locals, uniform: false });
    }
    this.inside(routine);
    for (const result of this.results) this.emit(...get(result));
  }

  /** The statements of a function, its parameters being known. */
  private inside({ body, type, name }: Routine): void {
    this.changed = assigned(body);
    const shape = shapeOf(type);
    this.results = Array.from({ length: shape?.count ?? 0 }, () => this.local());
    const early =
      body.slice(0, -1).some(returns) || (body.length > 0 && body.at(-1)!.kind !== 'return' && returns(body.at(-1)!));
    if (early) {
      this.live = this.local();
      this.emit(...constant(1, 'bool'), ...set(this.live));
    }
    this.emit(OP.block, OP.empty);
    this.depth = 1;
    if (!body.length && shape) throw new SyntaxError(`GLSL: ${name} gives nothing`);
    this.block(body);
    this.emit(OP.end);
  }

  /** A small function written out where it is called: a call with lanes costs more than most of them do. */
  private inlined(routine: Routine, things: readonly (Value | Reference)[]): Value {
    const { scopes, mask, live, results, depth, loops, changed } = this;
    const own = new Map<string, Variable | Reference>();
    const written = assigned(routine.body);
    routine.params.forEach((param, i) => {
      const thing = things[i]!;
      if (isReference(thing)) return void own.set(param.name, { ...thing, type: param.type, size: param.size });
      const locals = thing.parts.map((part) => {
        const local = this.local();
        this.emit(...part, ...set(local));
        return local;
      });
      own.set(param.name, { scalar: thing.scalar, locals, uniform: thing.uniform && !written.has(param.name) });
    });
    Object.assign(this, { scopes: [own], mask: null, live: null, loops: [] });
    this.inside(routine);
    const parts = this.results.map((local) => get(local));
    Object.assign(this, { scopes, mask, live, results, depth, loops, changed });
    const uniform = things.every((thing) => isReference(thing) || thing.uniform);
    return { scalar: shapeOf(routine.type)!.scalar, parts, uniform };
  }

  /** What of the lanes a statement acts on; null: all of them. */
  private acting(): Lanes | null {
    const masks: Lanes[] = [];
    if (this.mask) masks.push(this.mask);
    if (this.live !== null) masks.push(get(this.live));
    for (const { alive } of this.loops) if (alive !== null) masks.push(get(alive));
    return masks.reduce<Lanes | null>((all, one) => (all ? this.op(LANES.and, all, one) : one), null);
  }

  private find(name: string): Variable | Reference {
    for (let i = this.scopes.length - 1; i >= 0; i--) {
      const found = this.scopes[i]!.get(name);
      if (found) return found;
    }
    const found = this.program.globals.get(name) ?? this.program.reference(name);
    if (!found) throw new SyntaxError(`GLSL: ${name} is not known`);
    return found;
  }

  private block(body: readonly Statement[]): void {
    this.scopes.push(new Map());
    for (const one of body) this.statement(one);
    this.scopes.pop();
  }

  private statement(one: Statement): void {
    switch (one.kind) {
      case 'block':
        return this.block(one.body);
      case 'declare':
        return this.declare(one);
      case 'assign':
        return this.assign(one.name, this.changedValue(one));
      case 'if':
        return this.branch(one);
      case 'for':
        return this.loop(one);
      case 'return': {
        const values = one.value ? this.value(one.value).parts : [];
        const acting = this.acting();
        values.forEach((part, i) => this.choose(this.results[i]!, part, acting));
        if (this.live === null) return;
        if (acting) this.emit(...get(this.live), ...acting, ...lanes(LANES.andnot), ...set(this.live));
        else this.emit(...constant(0, 'bool'), ...set(this.live));
        return;
      }
      case 'break': {
        const loop = this.loops.at(-1)!;
        if (this.mask === null || loop.alive === null) {
          this.emit(OP.br, ...leb(this.depth - loop.exit));
          return;
        }
        this.emit(...get(loop.alive), ...this.acting()!, ...lanes(LANES.andnot), ...set(loop.alive));
        return;
      }
    }
  }

  private declare({ type, name, size, value }: Extract<Statement, { kind: 'declare' }>): void {
    if (size) {
      // An array of four lanes an element, in memory.
      const at = this.program.scratch(size);
      if (value?.kind === 'array')
        value.args.forEach((arg, i) =>
          this.emit(...at, ...this.value(arg).parts[0]!, ...lanes(LANES.store), 4, ...leb(16 * i)),
        );
      this.scopes.at(-1)!.set(name, { type, size, address: at, wide: true });
      return;
    }
    const { scalar, count } = shapeOf(type)!;
    const first = value ? this.converted(this.value(value), scalar, count) : null;
    const locals = Array.from({ length: count }, () => this.local());
    locals.forEach((local, i) => this.emit(...(first?.parts[i] ?? constant(0, scalar)), ...set(local)));
    const uniform = (first?.uniform ?? false) && !this.changed.has(name);
    this.scopes.at(-1)!.set(name, { scalar, locals, uniform });
  }

  private changedValue({ name, op, value }: Extract<Statement, { kind: 'assign' }>): Value {
    const right = this.value(value);
    const old = this.value({ kind: 'name', name });
    return this.converted(op ? this.binary(op, old, right) : right, old.scalar, old.parts.length);
  }

  private assign(name: string, value: Value): void {
    const variable = this.find(name);
    if (!('locals' in variable)) throw new SyntaxError(`GLSL: ${name} cannot be set`);
    const acting = variable.uniform ? null : this.acting();
    variable.locals.forEach((local, i) => {
      if (variable.global) this.emit(...value.parts[i]!, OP.globalSet, ...leb(local));
      else this.choose(local, value.parts[i]!, acting);
    });
  }

  /** Sets a variable in those lanes that act. */
  private choose(local: number, value: Lanes, acting: Lanes | null): void {
    if (acting) this.emit(...value, ...get(local), ...acting, ...lanes(LANES.bitselect), ...set(local));
    else this.emit(...value, ...set(local));
  }

  private branch({ when, then, otherwise }: Extract<Statement, { kind: 'if' }>): void {
    const condition = this.value(when);
    const outer = this.mask;
    const test = condition.parts[0]!;
    const side = (body: Statement, mask: Lanes | null): void => {
      this.mask = mask;
      this.depth++;
      this.statement(body);
      this.depth--;
      this.mask = outer;
    };
    if (condition.uniform) {
      this.anyTrue(test);
      this.emit(OP.if, OP.empty);
      side(then, outer);
      if (otherwise) {
        this.emit(OP.else);
        side(otherwise, outer);
      }
      this.emit(OP.end);
    } else {
      const acting = this.acting();
      const yes = acting ? this.op(LANES.and, test, acting) : test;
      const no = acting ? this.op(LANES.andnot, acting, test) : this.op(LANES.not, test);
      this.anyTrue(yes);
      this.emit(OP.if, OP.empty);
      side(then, yes);
      this.emit(OP.end);
      if (otherwise) {
        this.anyTrue(no);
        this.emit(OP.if, OP.empty);
        side(otherwise, no);
        this.emit(OP.end);
      }
    }
    // Nothing more to do where all have returned.
    if (this.live !== null && (returns(then) || (otherwise && returns(otherwise)))) {
      this.anyTrue(get(this.live));
      this.emit(OP.i32Eqz, OP.brIf, ...leb(this.depth - 1));
    }
  }

  private loop({ first, when, step, body }: Extract<Statement, { kind: 'for' }>): void {
    this.scopes.push(new Map());
    const inside = assigned([body]);
    if (first.kind !== 'declare') throw new SyntaxError('GLSL: a loop declares what it counts');
    const begin = this.converted(this.value(first.value!), shapeOf(first.type)!.scalar, 1);
    const counter = this.local();
    this.emit(...begin.parts[0]!, ...set(counter));
    const variable: Variable = {
      scalar: begin.scalar,
      locals: [counter],
      uniform: begin.uniform && !inside.has(first.name),
    };
    this.scopes.at(-1)!.set(first.name, variable);
    const outer = this.mask;
    const breaks = (one: Statement): boolean =>
      one.kind === 'break' ||
      (one.kind === 'block' && one.body.some(breaks)) ||
      (one.kind === 'if' && (breaks(one.then) || (one.otherwise !== null && breaks(one.otherwise))));
    const alive = breaks(body) ? this.local() : null;
    if (alive !== null) this.emit(...constant(1, 'bool'), ...set(alive));
    this.emit(OP.block, OP.empty, OP.loop, OP.empty);
    this.depth += 2;
    this.loops.push({ alive, exit: this.depth - 1 });
    const condition = this.value(when);
    const uniform = condition.uniform && variable.uniform;
    if (uniform) this.anyTrue(condition.parts[0]!);
    else {
      const acting = this.acting();
      const on = acting ? this.op(LANES.and, condition.parts[0]!, acting) : condition.parts[0]!;
      this.mask = on;
      this.anyTrue(on);
    }
    this.emit(OP.i32Eqz, OP.brIf, ...leb(1));
    this.statement(body);
    this.statement(step);
    this.emit(OP.br, ...leb(0), OP.end, OP.end);
    this.loops.pop();
    this.depth -= 2;
    this.mask = outer;
    this.scopes.pop();
  }

  private reading(name: string): Value | Reference {
    const found = this.find(name);
    if (!('locals' in found)) return found;
    const parts = found.locals.map((local) => (found.global ? [OP.globalGet, ...leb(local)] : get(local)));
    // What a variable holds now may be changed before it is used.
    return {
      scalar: found.scalar,
      uniform: found.uniform,
      parts: found.uniform && !found.global ? parts : parts.map((part) => (this.emit(...part), this.keep())),
    };
  }

  /** A value, or what lies in memory. */
  private thing(expr: Expr): Value | Reference {
    if (expr.kind === 'name') return this.reading(expr.name);
    if (expr.kind === 'index') {
      const of = this.thing(expr.of);
      if (!isReference(of)) throw new SyntaxError('GLSL: only arrays have elements');
      const place = this.value(expr.at);
      // Whatever a lane that does not count asks for: never beyond the array.
      const last = int(Math.max(0, of.size - 1));
      const held = this.op(LANES.i32maxS, int(0), this.op(LANES.i32minS, last, place.parts[0]!));
      const at = { ...place, parts: [held] };
      const size = of.wide ? 16 : this.program.sizeOf(of.type);
      if (of.wide && !at.uniform) return this.gathered(of, at.parts[0]!);
      const address = this.local(I32);
      this.emit(
        ...of.address,
        ...at.parts[0]!,
        ...lanes(LANES.extractI32),
        0,
        ...i32(size),
        OP.i32Mul,
        OP.i32Add,
        ...set(address),
      );
      if (of.wide) {
        this.emit(...get(address), ...lanes(LANES.load), 4, 0);
        return { scalar: shapeOf(of.type)!.scalar, uniform: false, parts: [this.keep()] };
      }
      return { type: of.type, size: 0, address: get(address) };
    }
    if (expr.kind === 'field') {
      const of = this.thing(expr.of);
      const fields = isReference(of) ? this.program.unit.structs.get(of.type) : undefined;
      if (isReference(of) && fields) {
        let offset = 0;
        for (const field of fields) {
          if (field.name === expr.name) return this.loaded(field.type, of.address, offset);
          offset += this.program.sizeOf(field.type);
        }
        throw new SyntaxError(`GLSL: no field ${expr.name}`);
      }
      const value = isReference(of) ? this.loaded(of.type, of.address, 0) : of;
      const parts = [...expr.name].map(
        (letter) => value.parts[Math.max('xyzw'.indexOf(letter), 'rgba'.indexOf(letter))]!,
      );
      return { ...value, parts };
    }
    return this.computed(expr);
  }

  private loaded(type: string, address: readonly number[], offset: number): Value {
    const { scalar, count } = shapeOf(type)!;
    const parts = Array.from({ length: count }, (_, i) => {
      this.emit(...address, ...lanes(LANES.load32Splat), 2, ...leb(offset + 4 * i));
      return this.keep();
    });
    // Uniforms come as floats, whole numbers too.
    return { scalar, parts, uniform: true };
  }

  /** Elements of an array, another one in each lane. */
  private gathered(of: Reference, at: Lanes): Value {
    const result = this.local();
    this.emit(...constant(0, 'float'), ...set(result));
    for (let l = 0; l < 4; l++)
      this.emit(
        ...get(result),
        ...of.address,
        ...at,
        ...lanes(LANES.extractI32),
        l,
        ...i32(16),
        OP.i32Mul,
        OP.i32Add,
        OP.i32Load,
        2,
        ...leb(4 * l),
        ...lanes(LANES.replaceI32),
        l,
        ...set(result),
      );
    return { scalar: shapeOf(of.type)!.scalar, uniform: false, parts: [get(result)] };
  }

  value(expr: Expr): Value {
    const thing = this.thing(expr);
    return isReference(thing) ? this.loaded(thing.type, thing.address, 0) : thing;
  }

  private computed(expr: Expr): Value {
    switch (expr.kind) {
      case 'number':
        return { scalar: expr.type, parts: [constant(expr.value, expr.type)], uniform: true };
      case 'unary': {
        const of = this.value(expr.of);
        const negative = of.scalar === 'float' ? LANES.f32neg : null;
        const parts = of.parts.map((part) =>
          expr.op !== '-'
            ? this.op(LANES.not, part)
            : negative !== null
              ? this.op(negative, part)
              : this.op(LANES.i32sub, int(0), part),
        );
        return { ...of, parts };
      }
      case 'binary':
        return this.binary(expr.op, this.value(expr.a), this.value(expr.b));
      case 'choose': {
        const when = this.value(expr.when);
        const [a, b] = [this.value(expr.a), this.value(expr.b)];
        const parts = a.parts.map((part, i) => this.op(LANES.bitselect, part, b.parts[i]!, when.parts[0]!));
        return { scalar: a.scalar, parts, uniform: when.uniform && a.uniform && b.uniform };
      }
      case 'call':
        return this.call(expr.name, expr.args);
      default:
        throw new SyntaxError(`GLSL: ${expr.kind} cannot stand here`);
    }
  }

  /** Values of the same number of parts: one part counts for all. */
  private spread(values: readonly Value[]): { count: number; parts: (i: number) => Lanes[]; uniform: boolean } {
    return {
      count: Math.max(...values.map(({ parts }) => parts.length)),
      parts: (i) => values.map(({ parts }) => parts[parts.length === 1 ? 0 : i]!),
      uniform: values.every(({ uniform }) => uniform),
    };
  }

  private each(values: readonly Value[], scalar: Scalar, work: (...parts: Lanes[]) => Lanes): Value {
    const { count, parts, uniform } = this.spread(values);
    return { scalar, uniform, parts: Array.from({ length: count }, (_, i) => work(...parts(i))) };
  }

  private binary(op: string, a: Value, b: Value): Value {
    if (op === '&&') return this.each([a, b], 'bool', (x, y) => this.op(LANES.and, x!, y!));
    if (op === '||') return this.each([a, b], 'bool', (x, y) => this.op(LANES.or, x!, y!));
    if (op === '<<' || op === '>>') return this.shifted(op, a, b);
    const compared = COMPARISONS[op]?.[a.scalar];
    if (compared !== undefined) return this.each([a, b], 'bool', (x, y) => this.op(compared, x!, y!));
    const code = ARITHMETIC[op]?.[a.scalar];
    if (code === undefined) throw new SyntaxError(`GLSL: ${a.scalar} ${op} ${b.scalar} is not written here`);
    return this.each([a, b], a.scalar, (x, y) => this.op(code, x!, y!));
  }

  private shifted(op: '<<' | '>>', a: Value, b: Value): Value {
    const code = op === '<<' ? LANES.i32shl : a.scalar === 'uint' ? LANES.i32shrU : LANES.i32shrS;
    return this.each([a, b], a.scalar, (x, by) => {
      if (b.uniform) {
        this.emit(...x!, ...by!, ...lanes(LANES.extractI32), 0, ...lanes(code));
        return this.keep();
      }
      // Each lane by its own amount.
      const result = this.local();
      this.emit(...x!, ...set(result));
      for (let l = 0; l < 4; l++)
        this.emit(
          ...get(result),
          ...get(result),
          ...lanes(LANES.extractI32),
          l,
          ...by!,
          ...lanes(LANES.extractI32),
          l,
          op === '<<' ? OP.i32Shl : OP.i32ShrU,
          ...lanes(LANES.replaceI32),
          l,
          ...set(result),
        );
      return get(result);
    });
  }

  /** The same numbers as another scalar, and one part as several. */
  private converted(value: Value, scalar: Scalar, count = value.parts.length): Value {
    const change = (part: Lanes): Lanes => {
      const from = value.scalar;
      if (from === scalar || (from !== 'float' && from !== 'bool' && scalar !== 'float')) return part;
      if (from === 'bool') return this.op(LANES.and, part, constant(1, scalar));
      if (scalar === 'float') return this.op(from === 'uint' ? LANES.f32convertU : LANES.f32convertS, part);
      return this.op(scalar === 'uint' ? LANES.i32truncU : LANES.i32truncS, part);
    };
    const parts = value.parts.map(change);
    return {
      scalar,
      uniform: value.uniform,
      parts: parts.length === 1 && count > 1 ? Array.from({ length: count }, () => parts[0]!) : parts,
    };
  }

  private call(name: string, args: readonly Expr[]): Value {
    if (name === 'texture') return this.texture(args);
    if (name === 'textureSize') {
      const { at } = this.program.sampler((args[0] as { name: string }).name);
      const parts = [4, 8].map((offset) => {
        this.emit(...i32(at), ...lanes(LANES.load32Splat), 2, ...leb(offset));
        return this.keep();
      });
      return { scalar: 'int', parts, uniform: true };
    }
    const shape = shapeOf(name);
    if (shape) {
      const values = args.map((arg) => this.converted(this.value(arg), shape.scalar));
      const parts = values.flatMap(({ parts: own }) => own);
      const uniform = values.every((value) => value.uniform);
      return {
        scalar: shape.scalar,
        uniform,
        parts: Array.from({ length: shape.count }, (_, i) => parts[parts.length === 1 ? 0 : i]!),
      };
    }
    const routine = this.program.routine(name);
    if (routine && shapeOf(routine.type)) return this.called(name, routine, args);
    const values = args.map((arg) => this.value(arg));
    return this.builtin(name, values);
  }

  private called(name: string, routine: Routine, args: readonly Expr[]): Value {
    const { scalar, count } = shapeOf(routine.type)!;
    const things = routine.params.map((param, i) =>
      this.program.isPassedByAddress(param)
        ? this.thing(args[i]!)
        : this.converted(this.value(args[i]!), shapeOf(param.type)!.scalar),
    );
    // A function of floats is done for each part of a vector.
    const times =
      routine.params.length > 0 && routine.params.every(({ type }) => type === 'float')
        ? Math.max(...things.map((thing) => (isReference(thing) ? 1 : thing.parts.length)))
        : 1;
    const parts: Lanes[] = [];
    const small = this.program.isSmall(routine) && this.made.code.length < MOST_CODE;
    for (let k = 0; k < times; k++) {
      if (small) {
        const each = things.map((thing) =>
          times === 1 || isReference(thing)
            ? thing
            : { ...thing, parts: [thing.parts[thing.parts.length === 1 ? 0 : k]!] },
        );
        parts.push(...this.inlined(routine, each).parts);
        continue;
      }
      for (const thing of things)
        if (isReference(thing)) this.emit(...thing.address);
        else if (times > 1) this.emit(...thing.parts[thing.parts.length === 1 ? 0 : k]!);
        else for (const part of thing.parts) this.emit(...part);
      this.emit(OP.call, ...leb(this.program.index(name)));
      const locals = Array.from({ length: count }, () => this.local());
      for (const local of [...locals].reverse()) this.emit(...set(local));
      parts.push(...locals.map((local) => get(local)));
    }
    return { scalar, parts, uniform: things.every((thing) => isReference(thing) || thing.uniform) };
  }

  private builtin(name: string, values: readonly Value[]): Value {
    const [a, b, c] = values;
    if (!a) throw new SyntaxError(`GLSL: ${name} is not known`);
    const whole = a.scalar !== 'float';
    const plain = PLAIN[name];
    if (plain !== undefined) return this.each([a], 'float', (x) => this.op(plain, x!));
    const least = whole ? (a.scalar === 'uint' ? LANES.i32minU : LANES.i32minS) : LANES.f32pmin;
    const most = whole ? (a.scalar === 'uint' ? LANES.i32maxU : LANES.i32maxS) : LANES.f32pmax;
    const sum = (parts: readonly Lanes[]): Lanes => parts.reduce((all, one) => this.op(LANES.f32add, all, one));
    const dot = (x: Value, y: Value): Lanes => sum(x.parts.map((part, i) => this.op(LANES.f32mul, part, y.parts[i]!)));
    const uniform = values.every((value) => value.uniform);
    const single = (part: Lanes): Value => ({ scalar: 'float', parts: [part], uniform });
    switch (name) {
      case 'abs':
        return this.each([a], a.scalar, (x) => this.op(LANES.f32abs, x!));
      case 'min':
        return this.each([a, b!], a.scalar, (x, y) => this.op(least, x!, y!));
      case 'max':
        return this.each([a, b!], a.scalar, (x, y) => this.op(most, x!, y!));
      case 'clamp':
        // What is no number becomes the lower limit.
        return this.each([a, b!, c!], a.scalar, (x, low, high) => this.op(least, high!, this.op(most, low!, x!)));
      case 'mix':
        return this.each([a, b!, c!], 'float', (x, y, t) =>
          this.op(LANES.f32add, x!, this.op(LANES.f32mul, this.op(LANES.f32sub, y!, x!), t!)),
        );
      case 'fract':
        return this.each([a], 'float', (x) => this.op(LANES.f32sub, x!, this.op(LANES.f32floor, x!)));
      case 'mod':
        return this.each([a, b!], 'float', (x, y) =>
          this.op(LANES.f32sub, x!, this.op(LANES.f32mul, y!, this.op(LANES.f32floor, this.op(LANES.f32div, x!, y!)))),
        );
      case 'floatBitsToInt':
        return { ...a, scalar: 'int' };
      case 'intBitsToFloat':
        return { ...a, scalar: 'float' };
      case 'dot':
        return single(dot(a, b!));
      case 'length':
        return single(this.op(LANES.f32sqrt, dot(a, a)));
      default:
        throw new SyntaxError(`GLSL: ${name} is not known`);
    }
  }

  private texture(args: readonly Expr[]): Value {
    const { at, type } = this.program.sampler((args[0] as { name: string }).name);
    const where = this.value(args[1]!);
    const volume = type === 'sampler3D';
    const index = volume
      ? this.program.add('sample 3D', [I32, V128, V128, V128], 4, (made) => new Pixels(made).sample3D())
      : this.program.add('sample 2D', [I32, V128, V128], 4, (made) => new Pixels(made).sample2D());
    this.emit(...i32(at), ...where.parts.flatMap((part) => [...part]), OP.call, ...leb(index));
    return { scalar: 'float', parts: this.four(), uniform: where.uniform };
  }
}

/**
 * @param shader what defines `vec4 shade(vec2 pixel)`, with all its uniforms
 * @param bytes whether it gives displayed colours, for eight bits, instead of light
 * @throws SyntaxError where the shader goes beyond the subset
 */
export function compileShader(shader: string, bytes: boolean): Compiled {
  const own = parseGlsl(shader);
  const library = parseGlsl(LIBRARY);
  const routines = new Map([...library.routines, ...own.routines]);
  for (const name of OURS) routines.set(name, library.routines.get(name)!);
  const uniforms = new Map([['target', { type: 'sampler2D', name: 'target', size: 0 }], ...own.uniforms]);
  const program = new Program({ ...own, uniforms, routines });
  const run = program.add('run', [I32, I32], 0, (made) =>
    new Pixels(made).rows(program.index('shade'), program.sampler('target').at, bytes),
  );
  return { bytes: writeModule(program.functions, program.globalCount, run), places: program.places };
}

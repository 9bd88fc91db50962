/**
 * Reads the subset of GLSL ES 3.00 that effects are written in: structs, uniforms, functions, `if`, `for`, `return`,
 * `break`, numbers, vectors, arrays, samplers; `#define` of whole names. Source: The OpenGL ES Shading Language 3.00,
 * Khronos Group 2016, chapters 3 to 6.
 */

export type Expr =
  | { readonly kind: 'number'; readonly value: number; readonly type: 'float' | 'int' | 'uint' | 'bool' }
  | { readonly kind: 'name'; readonly name: string }
  | { readonly kind: 'call'; readonly name: string; readonly args: readonly Expr[] }
  | { readonly kind: 'array'; readonly type: string; readonly args: readonly Expr[] }
  | { readonly kind: 'field'; readonly of: Expr; readonly name: string }
  | { readonly kind: 'index'; readonly of: Expr; readonly at: Expr }
  | { readonly kind: 'unary'; readonly op: string; readonly of: Expr }
  | { readonly kind: 'binary'; readonly op: string; readonly a: Expr; readonly b: Expr }
  | { readonly kind: 'choose'; readonly when: Expr; readonly a: Expr; readonly b: Expr };

export type Statement =
  | { readonly kind: 'block'; readonly body: readonly Statement[] }
  | {
      readonly kind: 'declare';
      readonly type: string;
      readonly name: string;
      readonly size: number;
      readonly value: Expr | null;
    }
  | { readonly kind: 'assign'; readonly name: string; readonly op: string; readonly value: Expr }
  | { readonly kind: 'if'; readonly when: Expr; readonly then: Statement; readonly otherwise: Statement | null }
  | {
      readonly kind: 'for';
      readonly first: Statement;
      readonly when: Expr;
      readonly step: Statement;
      readonly body: Statement;
    }
  | { readonly kind: 'return'; readonly value: Expr | null }
  | { readonly kind: 'break' };

export interface Parameter {
  readonly type: string;
  readonly name: string;
  /** Of an array; 0: none. */
  readonly size: number;
}

export interface Routine {
  readonly type: string;
  readonly name: string;
  readonly params: readonly Parameter[];
  readonly body: readonly Statement[];
}

export interface Unit {
  readonly structs: ReadonlyMap<string, readonly Parameter[]>;
  readonly uniforms: ReadonlyMap<string, Parameter>;
  /** Variables outside of functions. */
  readonly globals: ReadonlyMap<string, Parameter>;
  readonly routines: ReadonlyMap<string, Routine>;
}

const TOKEN = new RegExp(
  [
    /\s+|\/\/[^\n]*|\/\*[\s\S]*?\*\//,
    /(#[^\n]*)/,
    /(0x[0-9a-fA-F]+u?|(?:\d+\.\d*|\.\d+|\d+)(?:[eE][-+]?\d+)?[uf]?)/,
    /([A-Za-z_]\w*)/,
    /(<<=|>>=|<<|>>|<=|>=|==|!=|&&|\|\||\+\+|--|[-+*/|^&]=|[-+*/%<>=!&|^~?:;,.(){}[\]])/,
  ]
    .map(({ source }) => source)
    .join('|'),
  'gy',
);

function tokens(text: string): string[] {
  const out: string[] = [];
  const macros = new Map<string, string[]>();
  TOKEN.lastIndex = 0;
  while (TOKEN.lastIndex < text.length) {
    const at = TOKEN.lastIndex;
    const match = TOKEN.exec(text);
    if (!match) throw new SyntaxError(`no GLSL: ${text.slice(at, at + 30)}`);
    const [, directive, number, name, mark] = match;
    if (directive) {
      const [, what, macro, value] = /^#(\w+)\s*(\w*)\s*(.*)$/.exec(directive) ?? [];
      const [resume] = [TOKEN.lastIndex];
      if (what === 'define')
        macros.set(
          macro!,
          tokens(value!).flatMap((one) => macros.get(one) ?? [one]),
        );
      else if (what === 'undef') macros.delete(macro!);
      TOKEN.lastIndex = resume;
    } else if (name) out.push(...(macros.get(name) ?? [name]));
    else if (number ?? mark) out.push((number ?? mark)!);
  }
  return out;
}

const TYPES = /^(void|bool|float|u?int|[ui]?vec[234]|sampler[23]D)$/;
const LEVELS = [
  ['||'],
  ['&&'],
  ['|'],
  ['^'],
  ['&'],
  ['==', '!='],
  ['<', '>', '<=', '>='],
  ['<<', '>>'],
  ['+', '-'],
  ['*', '/'],
];

class Parser {
  private at = 0;
  readonly structs = new Map<string, Parameter[]>();
  readonly uniforms = new Map<string, Parameter>();
  readonly globals = new Map<string, Parameter>();
  readonly routines = new Map<string, Routine>();

  constructor(private readonly list: readonly string[]) {
    while (this.at < list.length) this.outside();
  }

  private get next(): string | undefined {
    return this.list[this.at];
  }
  private take(wanted?: string): string {
    const token = this.list[this.at++];
    if (token === undefined || (wanted !== undefined && token !== wanted))
      throw new SyntaxError(
        `GLSL: ${wanted ?? 'more'} wanted, not ${token} after ${this.list.slice(this.at - 9, this.at).join(' ')}`,
      );
    return token;
  }
  private took(token: string): boolean {
    if (this.next !== token) return false;
    this.at++;
    return true;
  }
  private get onType(): boolean {
    return this.next !== undefined && (TYPES.test(this.next) || this.structs.has(this.next));
  }
  private size(): number {
    if (!this.took('[')) return 0;
    const size = Number(this.take());
    this.take(']');
    return size;
  }

  private outside(): void {
    if (this.took(';')) return;
    if (this.took('struct')) {
      const name = this.take();
      const fields: Parameter[] = [];
      this.take('{');
      while (!this.took('}')) {
        const type = this.take();
        do fields.push({ type, name: this.take(), size: this.size() });
        while (this.took(','));
        this.take(';');
      }
      this.take(';');
      this.structs.set(name, fields);
      return;
    }
    const uniform = this.took('uniform');
    if (['lowp', 'mediump', 'highp'].includes(this.next ?? '')) this.at++;
    const type = this.take();
    const name = this.take();
    if (this.took('(')) {
      const params: Parameter[] = [];
      while (!this.took(')')) {
        params.push({ type: this.take(), name: this.take(), size: this.size() });
        this.took(',');
      }
      this.routines.set(name, { type, name, params, body: this.block() });
      return;
    }
    const into = uniform ? this.uniforms : this.globals;
    into.set(name, { type, name, size: this.size() });
    while (this.took(',')) {
      const other = this.take();
      into.set(other, { type, name: other, size: this.size() });
    }
    // Variables outside of functions begin with nothing.
    if (this.took('=')) this.expression();
    this.take(';');
  }

  private block(): Statement[] {
    this.take('{');
    const body: Statement[] = [];
    while (!this.took('}')) body.push(...this.statement());
    return body;
  }

  private single(): Statement {
    return { kind: 'block', body: this.next === '{' ? this.block() : this.statement() };
  }

  private statement(): Statement[] {
    if (this.next === '{') return [{ kind: 'block', body: this.block() }];
    if (this.took('if')) {
      this.take('(');
      const when = this.expression();
      this.take(')');
      const then = this.single();
      return [{ kind: 'if', when, then, otherwise: this.took('else') ? this.single() : null }];
    }
    if (this.took('for')) {
      this.take('(');
      const [first] = this.statement();
      const when = this.expression();
      this.take(';');
      const step = this.assignment();
      this.take(')');
      return [{ kind: 'for', first: first!, when, step, body: this.single() }];
    }
    if (this.took('return')) {
      const value = this.next === ';' ? null : this.expression();
      this.take(';');
      return [{ kind: 'return', value }];
    }
    if (this.took('break')) {
      this.take(';');
      return [{ kind: 'break' }];
    }
    if (this.onType) {
      const type = this.take();
      const made: Statement[] = [];
      do {
        const name = this.take();
        const size = this.size();
        made.push({ kind: 'declare', type, name, size, value: this.took('=') ? this.expression() : null });
      } while (this.took(','));
      this.take(';');
      return made;
    }
    const made = this.assignment();
    this.take(';');
    return [made];
  }

  private assignment(): Statement {
    const name = this.take();
    const op = this.take();
    const one: Expr = { kind: 'number', value: 1, type: 'int' };
    if (op === '++' || op === '--') return { kind: 'assign', name, op: op[0]!, value: one };
    if (!op.endsWith('=')) throw new SyntaxError(`GLSL: ${name} ${op} is no assignment`);
    return { kind: 'assign', name, op: op.slice(0, -1), value: this.expression() };
  }

  private expression(): Expr {
    const when = this.level(0);
    if (!this.took('?')) return when;
    const a = this.expression();
    this.take(':');
    return { kind: 'choose', when, a, b: this.expression() };
  }

  private level(n: number): Expr {
    if (n === LEVELS.length) return this.unary();
    let a = this.level(n + 1);
    while (this.next !== undefined && LEVELS[n]!.includes(this.next))
      a = { kind: 'binary', op: this.take(), a, b: this.level(n + 1) };
    return a;
  }

  private unary(): Expr {
    if (this.took('+')) return this.unary();
    if (this.next === '-' || this.next === '!' || this.next === '~')
      return { kind: 'unary', op: this.take(), of: this.unary() };
    let of = this.primary();
    for (;;) {
      if (this.took('.')) of = { kind: 'field', of, name: this.take() };
      else if (this.took('[')) {
        const at = this.expression();
        this.take(']');
        of = { kind: 'index', of, at };
      } else return of;
    }
  }

  private args(close: string): Expr[] {
    const args: Expr[] = [];
    while (!this.took(close)) {
      args.push(this.expression());
      this.took(',');
    }
    return args;
  }

  private primary(): Expr {
    const token = this.take();
    if (token === '(') {
      const inside = this.expression();
      this.take(')');
      return inside;
    }
    if (/^[\d.]/.test(token)) {
      const uint = token.endsWith('u');
      const type = uint ? 'uint' : /^0x/.test(token) || !/[.eE]/.test(token) ? 'int' : 'float';
      return { kind: 'number', value: Number(token.replace(/[uf]$/, '')), type };
    }
    if (token === 'true' || token === 'false') return { kind: 'number', value: token === 'true' ? 1 : 0, type: 'bool' };
    // float[5](…)
    if (TYPES.test(token) && this.next === '[') {
      this.size();
      this.take('(');
      return { kind: 'array', type: token, args: this.args(')') };
    }
    return this.took('(') ? { kind: 'call', name: token, args: this.args(')') } : { kind: 'name', name: token };
  }
}

/** @throws SyntaxError where a text goes beyond the subset */
export const parseGlsl = (text: string): Unit => new Parser(tokens(text));

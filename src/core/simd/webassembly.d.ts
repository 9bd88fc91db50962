/** The few names of the WebAssembly JavaScript interface that the core uses; it is the same in browsers and Node. */
declare namespace WebAssembly {
  interface Memory {
    readonly buffer: ArrayBuffer;
    grow(pages: number): number;
  }
  class Module {
    constructor(bytes: Uint8Array);
  }
  class Instance {
    readonly exports: Record<string, unknown>;
    constructor(module: Module, imports: object);
  }
}

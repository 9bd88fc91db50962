/** The few names of the WebAssembly JavaScript interface that the core uses; it is the same in browsers and Node. */
declare namespace WebAssembly {
  interface Memory {
    readonly buffer: ArrayBuffer;
    grow(pages: number): number;
  }
  type Module = object;
  const Module: new (bytes: Uint8Array) => Module;
  interface Instance {
    readonly exports: Record<string, unknown>;
  }
  const Instance: new (module: Module, imports: object) => Instance;
}

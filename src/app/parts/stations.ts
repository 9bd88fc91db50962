/** The stages of the work, in their order. */
export const STATIONS = [
  { id: 'bring-in', name: 'Bring in' },
  { id: 'check', name: 'Check' },
  { id: 'shape', name: 'Shape' },
  { id: 'spread', name: 'Spread' },
  { id: 'export', name: 'Export' },
] as const;

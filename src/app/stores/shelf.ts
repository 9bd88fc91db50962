/** Things kept in this browser under a name, beyond one montage: profiles, accents. */
import { liveQuery, type EntityTable } from 'dexie';
import { nanoid } from 'nanoid';
import { create } from 'zustand';
import { sentence, stored } from '../../engine/index.ts';
import { notice } from './view.ts';

interface Named {
  id: string;
  name: string;
  updated: number;
}

export interface Shelf<T extends Named> {
  /** All that is kept, by name. */
  readonly use: () => readonly T[];
  /** Keeps a thing and says so; of one name the newer takes the other's place. */
  keep(name: string, rest: Omit<T, keyof Named>, said: string): Promise<void>;
  drop(id: string): Promise<void>;
}

export function shelf<T extends Named>(table: EntityTable<T, 'id'>): Shelf<T> {
  const kept = create<{ all: readonly T[] }>(() => ({ all: [] }));
  // Where storage is refused there are none to list; keeping one says why.
  liveQuery(() => table.orderBy('name').toArray()).subscribe({
    next: (all) => kept.setState({ all }),
    error: () => undefined,
  });
  const report = (error: unknown): void => notice(sentence(error), 'error');
  return {
    use: () => kept((s) => s.all),
    async keep(name, rest, said) {
      try {
        const same = await stored(() => table.where('name').equals(name).first());
        await stored(() => table.put({ ...rest, id: same?.id ?? nanoid(8), name, updated: Date.now() } as never));
        notice(said);
      } catch (error) {
        report(error);
      }
    },
    async drop(id) {
      await stored(() => table.delete(id as never)).catch(report);
    },
  };
}

/** Exports that wait for their turn. */
import { useEffect } from 'react';
import { Pause, Play, Trash2 } from 'lucide-react';
import { dropQueued, holdQueue, nameOf, restoreQueue, useExportQueue } from '../stores/export-queue.ts';

export function Queue() {
  const { list, held } = useExportQueue();
  useEffect(() => void restoreQueue(), []);
  if (!list.length) return null;
  return (
    <section className="flex flex-col gap-1 rounded-md border border-rope p-2" data-queue={list.length}>
      <div className="flex items-center gap-2">
        <h3 className="caption grow">{held ? 'Waiting, held' : 'Waiting'}</h3>
        <button className="key px-1.5 py-0" onClick={() => void holdQueue(!held)}>
          {held ? <Play size={12} /> : <Pause size={12} />}
          {held ? 'Go on' : 'Hold'}
        </button>
      </div>
      {list.map((one) => (
        <div key={one.id} className="flex items-center gap-2">
          <span className="min-w-0 grow truncate">{nameOf(one)}</span>
          <button
            className="key-quiet"
            aria-label={`Take ${nameOf(one)} from the queue`}
            onClick={() => void dropQueued(one.id)}
          >
            <Trash2 size={12} />
          </button>
        </div>
      ))}
    </section>
  );
}

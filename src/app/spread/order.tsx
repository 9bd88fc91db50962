/** What the frame at the playhead is made of, the topmost first: left out for looking, looked at alone, moved. */
import { useEffect } from 'react';
import { ChevronDown, ChevronUp, Eye, EyeOff } from 'lucide-react';
import type { FrameLayer } from '../../core/accents/plan.ts';
import type { Montage } from '../../core/document/types.ts';
import { useDerived } from '../stores/derived.ts';
import { edit } from '../stores/montage.ts';
import { useView } from '../stores/view.ts';

const KINDS: Record<FrameLayer['kind'], string> = {
  title: 'title',
  accent: 'accent',
  bed: 'bed',
  subject: 'the subject',
  shields: 'shielded areas',
  clip: 'clip',
};

/** A list with one of it moved a place up or down among those that `among` says; null where there is none further. */
function moved<T extends { readonly id: string }>(
  list: readonly T[],
  id: string,
  by: 1 | -1,
  among: (one: T, other: T) => boolean = () => true,
): T[] | null {
  const at = list.findIndex((one) => one.id === id);
  const own = list[at];
  if (!own) return null;
  let to = at + by;
  while (list[to] && !among(own, list[to]!)) to += by;
  const other = list[to];
  return other ? list.map((one, i) => (i === at ? other : i === to ? own : one)) : null;
}

/** The montage with a bed or a title a place higher or lower; null where it cannot go further. */
export function movedLayer(montage: Montage, { id, kind }: FrameLayer, by: 1 | -1): Montage | null {
  const own = id.slice(id.indexOf(':') + 1);
  if (kind === 'title') {
    const titles = moved(montage.titles ?? [], own, by);
    return titles && { ...montage, titles };
  }
  if (kind !== 'bed') return null;
  const beds = moved(montage.beds, own, by, (one, other) => one.above === other.above);
  return beds && { ...montage, beds };
}

export function Order() {
  const derived = useDerived()!;
  const frame = useView((s) => (s.playing ? -1 : s.playhead));
  const hidden = useView((s) => s.leftOut);
  const layers = frame < 0 ? [] : derived.planner.layersAt(frame);
  const hide = (ids: readonly string[]): void => useView.setState({ leftOut: ids });
  // Who leaves this list sees all again.
  useEffect(() => () => useView.setState({ leftOut: [] }), []);
  // The clip alone is looked at by comparing.
  const others = layers.filter(({ kind }) => kind !== 'clip');
  return (
    <details className="flex flex-col" data-order>
      <summary className="caption cursor-pointer">
        On this frame{hidden.length > 0 && <span className="text-ember">, {hidden.length} not shown</span>}
      </summary>
      <ol className="mt-2 flex flex-col gap-1">
        {layers.map((layer) => {
          const { id, kind, name } = layer;
          const off = hidden.includes(id);
          const said = name ? `${KINDS[kind]} ${name}` : KINDS[kind];
          return (
            <li key={id} className="flex items-center gap-1" data-layer={id}>
              <span className={`min-w-0 grow truncate ${off ? 'text-fog line-through' : ''}`}>
                {name || KINDS[kind]} {name && <span className="text-fog">{KINDS[kind]}</span>}
              </span>
              {(kind === 'bed' || kind === 'title') &&
                ([1, -1] as const).map((by) => {
                  const to = movedLayer(derived.montage, layer, by);
                  return (
                    <button
                      key={by}
                      className="key-quiet"
                      disabled={!to}
                      aria-label={`${said} ${by > 0 ? 'up' : 'down'}`}
                      onClick={() => to && edit((m) => movedLayer(m, layer, by) ?? m)}
                    >
                      {by > 0 ? <ChevronUp size={13} /> : <ChevronDown size={13} />}
                    </button>
                  );
                })}
              {kind !== 'clip' && (
                <>
                  <button
                    className="key px-1 py-0"
                    aria-label={`Only ${said}`}
                    onClick={() => hide(others.filter((one) => one.id !== id).map((one) => one.id))}
                  >
                    only
                  </button>
                  <button
                    className="key-quiet"
                    aria-label={`Show ${said}`}
                    aria-pressed={!off}
                    onClick={() => hide(off ? hidden.filter((one) => one !== id) : [...hidden, id])}
                  >
                    {off ? <EyeOff size={13} /> : <Eye size={13} />}
                  </button>
                </>
              )}
            </li>
          );
        })}
        {layers.length === 0 && <li className="text-fog">Nothing while it plays, or past the end.</li>}
      </ol>
      {hidden.length > 0 && (
        <button className="key mt-1 self-start" onClick={() => hide([])}>
          Show all again
        </button>
      )}
    </details>
  );
}

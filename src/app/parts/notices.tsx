import { X } from 'lucide-react';
import { jobs } from '../stores/jobs.ts';
import { dismiss, useView } from '../stores/view.ts';

/** Sentences for the person: notes go by themselves, troubles stay until they are taken away. */
export function Notices({ floating = false }: { floating?: boolean }) {
  const all = useView((s) => s.notices);
  const notices = floating ? all : all.slice(-2);
  return (
    <div
      // Within the panel they have a place of their own and lie over nothing.
      className={
        floating
          ? 'pointer-events-none fixed right-3 bottom-3 z-40 flex w-[380px] flex-col gap-2'
          : 'flex max-h-44 flex-col gap-1.5 overflow-y-auto text-[12px] empty:hidden'
      }
      role="status"
      aria-live="polite"
    >
      {notices.map(({ id, tone, text }) => (
        <div
          key={id}
          data-tone={tone}
          className={`pointer-events-auto flex items-start gap-2 rounded-lg border bg-plank px-3 py-2 shadow-lg ${tone === 'error' ? 'border-ember' : 'border-rope'}`}
        >
          <p className="grow">{text}</p>
          <button className="key-quiet" aria-label="Dismiss" onClick={() => dismiss(id)}>
            <X size={14} />
          </button>
        </div>
      ))}
    </div>
  );
}

export function Jobs() {
  const list = useView((s) => s.jobs);
  if (!list.length) return null;
  return (
    <ul className="flex flex-col gap-2">
      {list.map(({ id, label, share, detail }) => (
        <li key={id} data-job-share={share ?? ''} className="rounded-md bg-plank px-3 py-2">
          <div className="flex items-baseline justify-between gap-2">
            <span className="min-w-0 truncate">{label}</span>
            <button className="key-quiet" onClick={() => jobs.cancel(id)}>
              Cancel
            </button>
          </div>
          <div className="mt-1 flex items-center gap-2">
            <progress className="h-1.5 grow" aria-label={label} value={share ?? undefined} max={1} />
            <span className="mono w-24 text-right text-[11px] text-fog">
              {share === null ? '' : `${Math.floor(share * 100)} %`} {detail ?? ''}
            </span>
          </div>
        </li>
      ))}
    </ul>
  );
}

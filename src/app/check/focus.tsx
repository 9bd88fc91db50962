/** Where in the picture the chosen hit happens. */
import { Crosshair } from 'lucide-react';
import type { Hit } from '../../core/document/types.ts';
import { clearFocus, followFocus, proposeFocus } from '../stores/focus.ts';
import { useView } from '../stores/view.ts';

export function FocusRow({ hit }: { hit: Hit }) {
  const setting = useView((s) => s.drawing === 'focus');
  const { focus, track } = hit;
  return (
    <div className="flex flex-wrap items-center gap-1 text-[12px] text-fog" data-focus={focus ? '' : undefined}>
      <Crosshair size={13} className="text-lamp" />
      <span className="grow">
        {focus
          ? `Focus ${Math.round(focus.x * 100)} %, ${Math.round(focus.y * 100)} %${track ? ', moving' : ''}`
          : 'No focus'}
      </span>
      <button
        className="key px-1.5 py-0"
        aria-pressed={setting}
        title="Click the place in the picture where it happens (F). Zooms, rays and framing go by it."
        onClick={() => useView.setState({ drawing: setting ? null : 'focus' })}
      >
        Set
      </button>
      <button
        className="key px-1.5 py-0"
        title="From the largest change in the picture"
        onClick={() => void proposeFocus([hit])}
      >
        Propose
      </button>
      {focus && (
        <>
          <button
            className="key px-1.5 py-0"
            title="Moves it with the picture, half a second before to two after"
            onClick={() => void followFocus()}
          >
            Follow
          </button>
          <button className="key px-1.5 py-0" onClick={clearFocus}>
            Clear
          </button>
        </>
      )}
    </div>
  );
}

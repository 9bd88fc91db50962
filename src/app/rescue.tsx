/** Ways on when a montage cannot be shown: a step back, without an accent, as it was before, and always the file. */
import { Component, useMemo, type ReactNode } from 'react';
import { useNavigate, useParams, useRouteError } from 'react-router';
import { removeAccent } from '../core/document/edits.ts';
import type { Accent, Montage } from '../core/document/types.ts';
import { planner } from '../core/accents/plan.ts';
import { mediaIndex } from '../core/timeline/timeline.ts';
import { EFFECTS } from '../effects/index.ts';
import { listedIndex, sentence } from '../engine/index.ts';
import { useMedia } from './stores/media.ts';
import { edit, useMontage } from './stores/montage.ts';
import { openBefore, plainName, saveProject, saveText, type Broken } from './stores/opening.ts';
import { notice } from './stores/view.ts';

/** Whether all of a montage can be planned. */
function works(montage: Montage): boolean {
  try {
    const media = mediaIndex(montage.sources, listedIndex(useMedia.getState().listed));
    const plan = planner(montage, media, EFFECTS);
    for (const { frame } of plan.placements) plan.at(Math.max(0, frame));
    return true;
  } catch {
    return false;
  }
}

/** What of a montage keeps it from being planned; nothing where it can be, and the fault lies elsewhere. */
function faultOf(montage: Montage, before: Montage | undefined): { lastStep: boolean; accents: Accent[] } {
  if (works(montage)) return { lastStep: false, accents: [] };
  return {
    lastStep: before !== undefined && works(before),
    accents: montage.accents.filter(({ id }) => works(removeAccent(id)(montage))),
  };
}

/** Around a dialog: one that fails closes with a sentence, and the montage is as it was. */
export class DialogGuard extends Component<{ name: string; onClose: () => void; children: ReactNode }> {
  override state = { failed: false };
  static getDerivedStateFromError = () => ({ failed: true });
  private told = false;
  override componentDidCatch(error: unknown): void {
    // Several parts of it may fail at once.
    if (this.told) return;
    this.told = true;
    const { name, onClose } = this.props;
    notice(`${name} failed and was closed. The montage is as it was. The reason given: ${sentence(error)}`, 'error');
    onClose();
  }
  override render(): ReactNode {
    return this.state.failed ? null : this.props.children;
  }
}

/** Shown in place of a screen that failed. */
export function Fault() {
  const error = useRouteError();
  const go = useNavigate();
  const { station } = useParams();
  const { montage, past } = useMontage();
  const fault = useMemo(() => (montage ? faultOf(montage, past.at(-1)) : null), [montage, past]);
  const again = (): void => {
    if (montage) void go(`/montage/${montage.id}/${station ?? 'bring-in'}`, { replace: true });
  };
  return (
    <main className="mx-auto flex max-w-xl flex-col gap-4 p-10">
      <h1 className="text-lg font-semibold">This screen failed</h1>
      <p className="text-fog">Your montage is kept. The reason given: {sentence(error)}</p>
      {montage && (
        <div className="flex flex-col items-start gap-2">
          {fault?.lastStep && (
            <button
              className="key-main"
              onClick={() => {
                useMontage.getState().undo();
                again();
              }}
            >
              One step back
            </button>
          )}
          {fault?.accents.map((accent) => (
            <button
              key={accent.id}
              className="key"
              onClick={() => {
                edit(removeAccent(accent.id));
                again();
              }}
            >
              Without the accent “{accent.name}”
            </button>
          ))}
          <button className="key" onClick={again}>
            Try again
          </button>
          <button className="key" onClick={() => saveProject(montage)}>
            Save the montage to a file
          </button>
        </div>
      )}
      <a className="key self-start" href="/">
        Back to all montages
      </a>
    </main>
  );
}

/** Shown in place of a stored montage that cannot be read. */
export function BrokenMontage({ broken, onOpen }: { broken: Broken; onOpen(): void }) {
  const name = (broken.stored as { name?: unknown } | null)?.name;
  return (
    <main className="mx-auto flex max-w-xl flex-col items-start gap-4 p-10">
      <h1 className="text-lg font-semibold">This montage cannot be opened as it is stored</h1>
      <p className="text-fog">{broken.reason}</p>
      {broken.before && (
        <button className="key-main" onClick={() => void openBefore(broken).then(onOpen)}>
          Open it as it was when it could be opened last
        </button>
      )}
      <button
        className="key"
        onClick={() =>
          saveText(
            `${JSON.stringify(broken.stored, null, 1)}\n`,
            `${plainName(typeof name === 'string' ? name : '')}.akmeon`,
          )
        }
      >
        Save what is stored to a file
      </button>
      <a className="key" href="/">
        Back to all montages
      </a>
    </main>
  );
}

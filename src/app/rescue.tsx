/** Ways on when a montage cannot be shown: a step back, without an accent, as it was before, and always the file. */
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

/** Accents without which the montage can be planned again; none where it can be with all, or not even without any one. */
function culprits(montage: Montage): Accent[] {
  const media = mediaIndex(montage.sources, listedIndex(useMedia.getState().listed));
  const works = (m: Montage): boolean => {
    try {
      const plan = planner(m, media, EFFECTS);
      for (const { frame } of plan.placements) plan.at(Math.max(0, frame));
      return true;
    } catch {
      return false;
    }
  };
  return works(montage) ? [] : montage.accents.filter(({ id }) => works(removeAccent(id)(montage)));
}

/** Shown in place of a screen that failed. */
export function Fault() {
  const error = useRouteError();
  const go = useNavigate();
  const { station } = useParams();
  const { montage, past } = useMontage();
  const again = (): void => {
    if (montage) void go(`/montage/${montage.id}/${station ?? 'bring-in'}`, { replace: true });
  };
  return (
    <main className="mx-auto flex max-w-xl flex-col gap-4 p-10">
      <h1 className="text-lg font-semibold">This screen failed</h1>
      <p className="text-fog">Your montage is kept. The reason given: {sentence(error)}</p>
      {montage && (
        <div className="flex flex-col items-start gap-2">
          {past.length > 0 && (
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
          {culprits(montage).map((accent) => (
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

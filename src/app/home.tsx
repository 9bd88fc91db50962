/** The shelf of montages in this browser. */
import { useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import { FilePlus2, FolderOpen, Lamp, Trash2, Undo2 } from 'lucide-react';
import { deleteMontage, listMontages, restoreMontage, sentence, type StoredMontage } from '../engine/index.ts';
import { FileButton } from './parts/file-button.tsx';
import { Notices } from './parts/notices.tsx';
import { makeMontage, openProject } from './stores/opening.ts';
import { notice } from './stores/view.ts';

const fail = (error: unknown): void => notice(sentence(error), 'error');

export function Home() {
  const go = useNavigate();
  const [list, setList] = useState<readonly StoredMontage[]>([]);
  const load = (): void => void listMontages().then(setList, fail);
  useEffect(load, []);
  const guard = (work: () => Promise<string>): void => {
    work().then((id) => go(`/montage/${id}/bring-in`), fail);
  };
  const kept = list.filter((entry) => entry.deleted === undefined);
  const deleted = list.filter((entry) => entry.deleted !== undefined);
  return (
    <main className="mx-auto flex h-full max-w-3xl flex-col gap-6 overflow-y-auto p-10">
      <h1 className="text-3xl font-semibold tracking-tight">Akmeon</h1>
      <p className="max-w-xl text-[15px] text-fog">
        Finds the hits in footage and music, lets you check them to the frame, and puts accents on them by rule.
        Everything stays on this machine.
      </p>
      <div className="flex gap-3">
        <button className="key" onClick={() => guard(makeMontage)}>
          <FilePlus2 size={15} />
          New montage
        </button>
        <FileButton
          accept=".akmeon,application/json"
          label="Open a project file"
          icon={<FolderOpen size={15} />}
          onFiles={([brought]) => {
            if (brought) guard(async () => openProject(await brought.file.text()));
          }}
        />
        <button className="key" onClick={() => go('/demo-montage')}>
          <Lamp size={15} />
          Harbour Nights, the demo
        </button>
      </div>
      <h2 className="caption">Montages in this browser</h2>
      <ul className="flex flex-col gap-1">
        {kept.map((entry) => (
          <li key={entry.id} className="flex items-center gap-3 rounded-md bg-deck px-3 py-2">
            <a className="grow font-medium hover:text-lamp" href={`/montage/${entry.id}/bring-in`}>
              {entry.name}
            </a>
            <span className="text-fog">{new Date(entry.updated).toLocaleString()}</span>
            <button
              className="key-quiet"
              aria-label={`Delete ${entry.name}`}
              onClick={() => void deleteMontage(entry.id).then(load, fail)}
            >
              <Trash2 size={14} />
            </button>
          </li>
        ))}
        {kept.length === 0 && <li className="text-fog">None yet.</li>}
      </ul>
      {deleted.length > 0 && (
        <>
          <h2 className="caption">Deleted, kept for a week</h2>
          <ul className="flex flex-col gap-1">
            {deleted.map((entry) => (
              <li key={entry.id} className="flex items-center gap-3 rounded-md border border-rope px-3 py-1.5 text-fog">
                <span className="grow">{entry.name}</span>
                <button className="key-quiet" onClick={() => void restoreMontage(entry.id).then(load, fail)}>
                  <Undo2 size={14} />
                  Bring back {entry.name}
                </button>
              </li>
            ))}
          </ul>
        </>
      )}
      <a className="mt-auto text-[12px] text-fog hover:text-sail" href="/notice.txt">
        Licences
      </a>
      <Notices floating />
    </main>
  );
}

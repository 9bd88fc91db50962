/** The shelf of montages in this browser. */
import { useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import { FilePlus2, FolderOpen, Lamp, Trash2 } from 'lucide-react';
import { sentence } from '../engine/index.ts';
import { database, stored, type StoredMontage } from '../engine/storage/database.ts';
import { FileButton } from './parts/file-button.tsx';
import { Notices } from './parts/notices.tsx';
import { makeMontage, openProject } from './stores/opening.ts';
import { notice } from './stores/view.ts';

export function Home() {
  const go = useNavigate();
  const [list, setList] = useState<readonly StoredMontage[]>([]);
  const load = (): void => {
    stored(() => database.montages.orderBy('updated').reverse().toArray()).then(setList, (error: unknown) =>
      notice(sentence(error), 'error'),
    );
  };
  useEffect(load, []);
  const guard = (work: () => Promise<string>): void => {
    work().then(
      (id) => go(`/montage/${id}/bring-in`),
      (error: unknown) => notice(sentence(error), 'error'),
    );
  };
  return (
    <main className="mx-auto flex h-full max-w-3xl flex-col gap-6 p-10">
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
        {list.map((entry) => (
          <li key={entry.id} className="flex items-center gap-3 rounded-md bg-deck px-3 py-2">
            <a className="grow font-medium hover:text-lamp" href={`/montage/${entry.id}/bring-in`}>
              {entry.name}
            </a>
            <span className="text-fog">{new Date(entry.updated).toLocaleString()}</span>
            <button
              className="key-quiet"
              aria-label={`Delete ${entry.name}`}
              onClick={() => {
                void database.montages.delete(entry.id).then(load);
              }}
            >
              <Trash2 size={14} />
            </button>
          </li>
        ))}
        {list.length === 0 && <li className="text-fog">None yet.</li>}
      </ul>
      <Notices />
    </main>
  );
}

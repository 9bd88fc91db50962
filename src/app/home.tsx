/** The shelf of montages in this browser. */
import { useEffect, useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import { nanoid } from 'nanoid';
import { Copy, FilePlus2, Files, FolderOpen, Lamp, Pencil, Trash2, Undo2 } from 'lucide-react';
import {
  addMontage,
  deleteMontage,
  listMontages,
  pictureOf,
  restoreMontage,
  sentence,
  storageUse,
  type StoredMontage,
} from '../engine/index.ts';
import { setName } from '../core/document/edits.ts';
import type { Montage } from '../core/document/types.ts';
import { FileButton } from './parts/file-button.tsx';
import { Notices } from './parts/notices.tsx';
import { editMontage } from './stores/montage.ts';
import { makeMontage, openProject } from './stores/opening.ts';
import { takeVersion } from './stores/version.ts';
import { notice, useView } from './stores/view.ts';

const fail = (error: unknown): void => notice(sentence(error), 'error');

export function Home() {
  const go = useNavigate();
  const newer = useView((s) => s.newer);
  const [list, setList] = useState<readonly StoredMontage[]>([]);
  const [use, setUse] = useState<Awaited<ReturnType<typeof storageUse>>>(null);
  const load = (): void => {
    void listMontages().then(setList, fail);
    void storageUse().then(setUse, () => undefined);
  };
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
        <button className="key" onClick={() => go('/many')}>
          <Files size={15} />
          Many recordings
        </button>
        <button className="key" onClick={() => go('/demo-montage')}>
          <Lamp size={15} />
          Harbour Nights, the demo
        </button>
      </div>
      {newer && (
        <p className="flex items-center gap-3">
          A newer version of Akmeon is there.
          <button className="key" onClick={() => void takeVersion()}>
            Take it
          </button>
        </p>
      )}
      <h2 className="caption">Montages in this browser</h2>
      <ul className="flex flex-col gap-1">
        {kept.map((entry) => (
          <ShelfRow
            key={entry.id}
            entry={entry}
            alike={kept.filter(({ name }) => name === entry.name).length > 1}
            onChange={load}
          />
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
      {use && (
        <p className="text-[12px] text-fog" data-storage>
          {megabytes(use.used)} of this browser’s storage are used, of at most {megabytes(use.most)}. What no montage
          uses any more goes by itself when Akmeon is opened in a single tab.
        </p>
      )}
      <a className="mt-auto text-[12px] text-fog hover:text-sail" href="/notice.txt">
        Licences
      </a>
      <Notices floating />
    </main>
  );
}

const megabytes = (bytes: number): string =>
  bytes > 1e9 ? `${(bytes / 1e9).toFixed(1)} GB` : `${(bytes / 1e6).toFixed(0)} MB`;

/** Length, hits and sources in words; what is stored may be of an older version, or broken, and is listed all the same. */
function aboutOf(montage: Montage): string {
  try {
    const { clips, hits, sources } = montage;
    const seconds = clips.reduce((sum, clip) => sum + (clip.out - clip.in) / Math.abs(clip.speed ?? 1), 0);
    const kept = hits.filter(({ state }) => state === 'kept' || state === 'made').length;
    const bytes = sources.reduce((sum, { size }) => sum + size, 0);
    return `${seconds.toFixed(0)} s · ${kept} hits · ${sources.length} sources, ${megabytes(bytes)}`;
  } catch {
    return 'cannot be read as it is: open it to mend it';
  }
}

/** A montage on the shelf: its picture, length and hits, told apart from others of its name by when it was changed. */
function ShelfRow({ entry, alike, onChange }: { entry: StoredMontage; alike: boolean; onChange: () => void }) {
  const { id, name, montage } = entry;
  const [picture, setPicture] = useState<string | null>(null);
  const [renaming, setRenaming] = useState<string | null>(null);
  useEffect(() => {
    let url: string | null = null;
    let gone = false;
    pictureOf(montage).then(
      (blob) => {
        if (blob && !gone) setPicture((url = URL.createObjectURL(blob)));
      },
      () => undefined,
    );
    return () => {
      gone = true;
      if (url) URL.revokeObjectURL(url);
    };
  }, [montage]);
  const told = useMemo(() => aboutOf(montage), [montage]);
  const rename = (): void => {
    const wanted = renaming?.trim();
    setRenaming(null);
    if (wanted && wanted !== name) void editMontage(id, setName(wanted)).then(onChange, fail);
  };
  return (
    <li className="flex items-center gap-3 rounded-md bg-deck px-3 py-2">
      <span className="flex h-[45px] w-20 shrink-0 justify-center overflow-hidden rounded-sm bg-night">
        {picture && <img src={picture} alt="" className="h-full object-contain" />}
      </span>
      <span className="flex min-w-0 grow flex-col">
        {renaming === null ? (
          <a className="truncate font-medium hover:text-lamp" href={`/montage/${id}/bring-in`}>
            {name}
          </a>
        ) : (
          <input
            autoFocus
            className="field py-0"
            aria-label={`New name of ${name}`}
            value={renaming}
            maxLength={200}
            onChange={(event) => setRenaming(event.currentTarget.value)}
            onBlur={rename}
            onKeyDown={(event) => {
              if (event.key === 'Enter') rename();
              if (event.key === 'Escape') setRenaming(null);
            }}
          />
        )}
        <span className="text-[12px] text-fog">
          {told}
          {alike && ` · ${id.slice(0, 4)}`}
        </span>
      </span>
      <span className="text-[12px] whitespace-nowrap text-fog">{new Date(entry.updated).toLocaleString()}</span>
      <button className="key-quiet" aria-label={`Rename ${name}`} title="Rename" onClick={() => setRenaming(name)}>
        <Pencil size={14} />
      </button>
      <button
        className="key-quiet"
        aria-label={`Duplicate ${name}`}
        title="Duplicate"
        onClick={() =>
          void addMontage({ ...montage, id: nanoid(), name: `${name} copy`.slice(0, 200) }).then(onChange, fail)
        }
      >
        <Copy size={14} />
      </button>
      <button
        className="key-quiet"
        aria-label={`Delete ${name}`}
        title="Delete: it can be brought back for a week"
        onClick={() => void deleteMontage(id).then(onChange, fail)}
      >
        <Trash2 size={14} />
      </button>
    </li>
  );
}

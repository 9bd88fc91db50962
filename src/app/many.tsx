/** Many recordings in one go, each or all of them a montage of their strongest moments. */
import { useEffect, useState } from 'react';
import { Link } from 'react-router';
import { FileVideo } from 'lucide-react';
import { STARTER_ACCENTS } from '../effects/starters.ts';
import type { BroughtFile } from '../engine/index.ts';
import { FileButton } from './parts/file-button.tsx';
import { Jobs, Notices } from './parts/notices.tsx';
import { NumberField } from './parts/number-field.tsx';
import { useLibrary } from './stores/library.ts';
import { makeMany, useMany, type ManyLine } from './stores/many.ts';
import { useProfiles } from './stores/profiles.ts';

const STATES: Record<ManyLine['state'], string> = {
  waiting: 'waits',
  searching: 'is searched',
  filming: 'is exported',
  done: 'is done',
  failed: 'failed',
};

export function ManyPage() {
  const { lines, running } = useMany();
  const kept = useLibrary();
  const profiles = useProfiles();
  const [files, setFiles] = useState<readonly BroughtFile[]>([]);
  const [chosen, setChosen] = useState<readonly string[]>([STARTER_ACCENTS[0]!.id]);
  const [profile, setProfile] = useState('');
  const [before, setBefore] = useState(1);
  const [after, setAfter] = useState(1.5);
  const [longest, setLongest] = useState(0);
  const [together, setTogether] = useState<string | null>(null);
  const [films, setFilms] = useState(true);
  const accents = [
    ...kept.map(({ id, accent }) => ({ key: `kept-${id}`, accent })),
    ...STARTER_ACCENTS.map((accent) => ({ key: accent.id, accent })),
  ];
  // Going to another page of the app stops nothing; closing it does.
  useEffect(() => {
    if (!running) return;
    const ask = (event: BeforeUnloadEvent): void => event.preventDefault();
    addEventListener('beforeunload', ask);
    return () => removeEventListener('beforeunload', ask);
  }, [running]);
  const start = async (): Promise<void> => {
    const picks = films && 'showDirectoryPicker' in window;
    const folder = picks ? await window.showDirectoryPicker({ mode: 'readwrite' }).catch(() => undefined) : null;
    // The window that asks for the folder was closed.
    if (folder === undefined) return;
    await makeMany(files, {
      // Two accents of one id would be one in the montage.
      accents: accents
        .filter(({ key }) => chosen.includes(key))
        .map(({ accent }, i) => ({ ...accent, id: `accent-${i}` })),
      profile: profiles.find(({ id }) => id === profile)?.profile ?? null,
      best: { before, after, longest: longest || null },
      together: together === null ? null : together.trim() || 'All recordings',
      films: films ? { folder } : null,
    });
  };
  const seconds = (label: string, value: number, most: number, set: (value: number) => void) => (
    <label className="flex items-center gap-1.5">
      {label}
      <NumberField label={label} value={value} min={0} max={most} step={0.5} onValue={set} />
    </label>
  );
  return (
    <main className="mx-auto flex h-full max-w-3xl flex-col gap-5 overflow-y-auto p-10">
      <h1 className="text-2xl font-semibold tracking-tight">Many recordings</h1>
      <Link to="/" className="self-start text-fog underline">
        All montages
      </Link>
      <p className="text-fog">
        Each is searched for hits; the moments around the strongest ones become a montage, with accents on all of them.
        Every montage is on the shelf afterwards, and can be worked on as any other.
      </p>
      <div className="flex items-center gap-3">
        <FileButton
          accept="video/*,.mkv"
          label="Choose recordings"
          icon={<FileVideo size={15} />}
          multiple
          handles
          onFiles={setFiles}
        />
        <span className="text-fog" role="status">
          {files.length ? files.map(({ file }) => file.name).join(', ') : 'None is chosen yet.'}
        </span>
      </div>
      <fieldset className="flex flex-col gap-1.5">
        <legend className="caption pb-1">Accents, one after the other</legend>
        <div className="grid max-h-44 grid-cols-3 gap-x-4 gap-y-1 overflow-y-auto rounded-md bg-deck p-3">
          {accents.map(({ key, accent }) => (
            <label key={key} className="flex items-center gap-1.5">
              <input
                type="checkbox"
                className="accent-tide"
                checked={chosen.includes(key)}
                onChange={(event) => {
                  const on = event.currentTarget.checked;
                  setChosen((old) => (on ? [...old, key] : old.filter((one) => one !== key)));
                }}
              />
              <span className="truncate">{accent.name}</span>
            </label>
          ))}
        </div>
      </fieldset>
      <div className="flex flex-wrap items-center gap-4">
        {seconds('Seconds before a hit', before, 300, setBefore)}
        {seconds('after it', after, 300, setAfter)}
        {seconds('at most in all (0: no limit)', longest, 86_400, setLongest)}
      </div>
      <div className="flex flex-wrap items-center gap-4">
        <select
          className="field"
          aria-label="Profile"
          value={profile}
          onChange={(event) => setProfile(event.currentTarget.value)}
        >
          <option value="">no profile</option>
          {profiles.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </select>
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            className="accent-tide"
            checked={together !== null}
            onChange={(event) => setTogether(event.currentTarget.checked ? 'All recordings' : null)}
          />
          one montage of all
        </label>
        {together !== null && (
          <input
            className="field"
            aria-label="Name of the montage of all"
            value={together}
            maxLength={200}
            onChange={(event) => setTogether(event.currentTarget.value)}
          />
        )}
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            className="accent-tide"
            checked={films}
            onChange={(event) => setFilms(event.currentTarget.checked)}
          />
          films, too
        </label>
      </div>
      <button
        className="key-main self-start"
        disabled={running || !files.length || before + after <= 0}
        onClick={() => void start()}
      >
        {running
          ? 'At work…'
          : together === null && files.length > 1
            ? `Make ${files.length} montages`
            : 'Make the montage'}
      </button>
      <Jobs />
      {lines.length > 0 && (
        <table className="w-full text-left">
          <tbody>
            {lines.map(({ name, state, why, montage, film }, i) => (
              <tr key={i} className="border-t border-rope align-top" data-many={state}>
                <td className="py-1 pr-3">{name}</td>
                <td className={`py-1 pr-3 whitespace-nowrap ${state === 'failed' ? 'text-ember' : ''}`}>
                  {STATES[state]}
                </td>
                <td className="py-1 text-fog">
                  {why}
                  {montage && (
                    <Link className="pr-3 underline" to={`/montage/${montage}/bring-in`}>
                      its montage
                    </Link>
                  )}
                  {film &&
                    (film.url ? (
                      <a className="underline" href={film.url} download={film.name}>
                        Save {film.name}
                      </a>
                    ) : (
                      film.name
                    ))}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <Notices floating />
    </main>
  );
}

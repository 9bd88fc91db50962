/** What else to look for: sounds like an example, things that appear in a rectangle; kept as a profile. */
import { ofAccents } from '../../core/document/words.ts';
import { useState } from 'react';
import { Trash2 } from 'lucide-react';
import { watchDetector } from '../../core/document/hits.ts';
import { exampleDetector } from '../../core/finding/detectors/index.ts';
import { removeExample, removeWatch, updateExample, updateWatch } from '../../core/document/edits.ts';
import {
  applyStoredProfile,
  deleteProfile,
  keepAsProfile,
  readProfileFile,
  saveProfileFile,
  useProfiles,
} from '../stores/profiles.ts';
import { useDerived } from '../stores/derived.ts';
import { FileButton } from '../parts/file-button.tsx';
import { READ_MARKS, WRITTEN_MARKS } from '../parts/mark-formats.ts';
import { readMarksFile, writeMarksFile } from '../stores/marks.ts';
import { edit } from '../stores/montage.ts';
import { useView } from '../stores/view.ts';

export function Seek() {
  const { montage, found } = useDerived()!;
  const sources = montage.sources.filter((source) => !ofAccents(source));
  const drawing = useView((s) => s.drawing);
  const count = (detector: string): number =>
    [...found.values()].reduce(
      (sum, { hits }) => sum + hits.filter((hit) => hit.evidence.some((e) => e.detector === detector)).length,
      0,
    );
  return (
    <div className="flex flex-col gap-3">
      <Marks />
      <h2 className="caption">Sounds alike</h2>
      {montage.examples.length === 0 && (
        <p className="text-[12px] text-fog">
          Choose a hit that was heard and press L: every sound like it becomes a hit.
        </p>
      )}
      {montage.examples.map((example) => (
        <div key={example.id} className="flex flex-col gap-1.5 rounded-md bg-plank p-2.5" data-example={example.id}>
          <div className="flex items-center gap-2">
            <input
              className="field min-w-0 grow py-0.5"
              aria-label="Name of the example"
              value={example.name}
              onChange={(event) =>
                edit(updateExample(example.id, { name: event.currentTarget.value }), `example-${example.id}`)
              }
            />
            <span className="mono text-[12px]" data-count>
              {count(exampleDetector(example.id))}
            </span>
            <button
              className="key-quiet"
              aria-label={`Stop seeking ${example.name}`}
              onClick={() => edit(removeExample(example.id))}
            >
              <Trash2 size={14} />
            </button>
          </div>
          <label className="grid grid-cols-[70px_1fr_30px] items-center gap-2 text-fog">
            Likeness
            <input
              className="range w-full"
              type="range"
              min={0.3}
              max={0.95}
              step={0.01}
              aria-label={`Least likeness to ${example.name}`}
              value={example.least}
              onChange={(event) =>
                edit(updateExample(example.id, { least: Number(event.currentTarget.value) }), `least-${example.id}`)
              }
            />
            <span className="mono text-right text-[12px]">{Math.round(example.least * 100)}</span>
          </label>
          {sources.length > 1 && (
            <label className="flex items-center gap-2 text-fog">
              In
              <select
                className="field min-w-0 grow py-0.5"
                aria-label={`Where ${example.name} is sought`}
                value={example.only ?? ''}
                onChange={(event) => edit(updateExample(example.id, { only: event.currentTarget.value || null }))}
              >
                <option value="">all sources</option>
                {sources.map((source) => (
                  <option key={source.id} value={source.id}>
                    {source.name}
                  </option>
                ))}
              </select>
            </label>
          )}
        </div>
      ))}

      <h2 className="caption">Watched rectangles</h2>
      <div className="flex gap-1.5">
        <button
          className="key"
          aria-pressed={drawing === 'appears'}
          onClick={() => useView.setState({ drawing: drawing === 'appears' ? null : 'appears' })}
        >
          Watch for what shows here
        </button>
        <button
          className="key"
          aria-pressed={drawing === 'changes'}
          onClick={() => useView.setState({ drawing: drawing === 'changes' ? null : 'changes' })}
        >
          For any change
        </button>
      </div>
      {drawing && (
        <p className="text-[12px] text-lamp">
          {drawing === 'appears'
            ? 'Go to a frame that shows it, then draw a rectangle on the picture.'
            : 'Draw a rectangle on the picture.'}
        </p>
      )}
      {montage.watches.map((watch) => (
        <div key={watch.id} className="flex flex-col gap-1.5 rounded-md bg-plank p-2.5" data-watch={watch.id}>
          <div className="flex items-center gap-2">
            <input
              className="field min-w-0 grow py-0.5"
              aria-label="Name of the watch"
              value={watch.name}
              onChange={(event) =>
                edit(updateWatch(watch.id, { name: event.currentTarget.value }), `watch-${watch.id}`)
              }
            />
            <span className="mono text-[12px]" data-count>
              {count(watchDetector(watch.id))}
            </span>
            <button
              className="key-quiet"
              aria-label={`Stop watching for ${watch.name}`}
              onClick={() => edit(removeWatch(watch.id))}
            >
              <Trash2 size={14} />
            </button>
          </div>
          <label className="grid grid-cols-[70px_1fr_30px] items-center gap-2 text-fog">
            Sensitivity
            <input
              className="range w-full"
              type="range"
              min={0}
              max={1}
              step={0.01}
              aria-label={`Sensitivity of ${watch.name}`}
              value={watch.sensitivity}
              onChange={(event) =>
                edit(updateWatch(watch.id, { sensitivity: Number(event.currentTarget.value) }), `watching-${watch.id}`)
              }
            />
            <span className="mono text-right text-[12px]">{Math.round(watch.sensitivity * 100)}</span>
          </label>
        </div>
      ))}
      <Profiles />
    </div>
  );
}

/** What is known of a game or hall, for the next recording of it. */
function Profiles() {
  const { montage } = useDerived()!;
  const sources = montage.sources.filter((source) => !ofAccents(source));
  const profiles = useProfiles();
  const [name, setName] = useState('');
  const [source, setSource] = useState('');
  const chosen = sources.find((s) => s.id === source) ?? sources.find((s) => s.video) ?? sources[0];
  if (!chosen) return null;
  return (
    <>
      <h2 className="caption">Profiles</h2>
      <p className="text-[12px] text-fog">
        Watches, examples, sound delay, what the tracks hold, and sensitivities of one game or hall, for its next
        recording.
      </p>
      <form
        className="flex gap-1.5"
        onSubmit={(event) => {
          event.preventDefault();
          void keepAsProfile(name.trim() || chosen.name, chosen);
          setName('');
        }}
      >
        <input
          className="field min-w-0 grow py-0.5"
          aria-label="Name of the profile"
          placeholder="Name, such as Lantern Drift"
          value={name}
          onChange={(event) => setName(event.currentTarget.value)}
        />
        <button className="key" type="submit">
          Keep
        </button>
      </form>
      {sources.length > 1 && (
        <label className="flex items-center gap-2 text-fog">
          Recording
          <select
            className="field min-w-0 grow py-0.5"
            value={chosen.id}
            onChange={(event) => setSource(event.currentTarget.value)}
          >
            {sources.map((s) => (
              <option key={s.id} value={s.id}>
                {s.name}
              </option>
            ))}
          </select>
        </label>
      )}
      {profiles.map(({ id, profile }) => (
        <div
          key={id}
          className="flex items-center gap-1.5 rounded-md bg-plank px-2.5 py-1.5"
          data-profile={profile.name}
        >
          <span className="min-w-0 grow truncate">{profile.name}</span>
          <button className="key py-0.5" onClick={() => applyStoredProfile(profile, chosen)}>
            Apply
          </button>
          <button className="key-quiet" onClick={() => saveProfileFile(profile)}>
            To a file
          </button>
          <button
            className="key-quiet"
            aria-label={`Delete the profile ${profile.name}`}
            onClick={() => void deleteProfile(id)}
          >
            <Trash2 size={14} />
          </button>
        </div>
      ))}
      <FileButton
        accept=".akmeon-profile,application/json"
        label="Profile from a file"
        onFiles={(files) => void readProfileFile(files[0]!.file)}
      />
    </>
  );
}

/** Marks of other programs in, kept hits out. */
function Marks() {
  return (
    <div className="flex flex-wrap items-center gap-2 text-[12px] text-fog">
      <h2 className="caption grow">Marks</h2>
      <FileButton accept={READ_MARKS} label="Set from a file" onFiles={(files) => void readMarksFile(files[0]!.file)} />
      <select
        className="field py-0.5"
        aria-label="Write the kept hits as"
        value=""
        onChange={(event) => void writeMarksFile(event.currentTarget.value)}
      >
        <option value="">Write as…</option>
        {Object.entries(WRITTEN_MARKS).map(([id, name]) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
      </select>
    </div>
  );
}

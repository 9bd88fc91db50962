/** Codec, sound and quality of an exported file, and ways of exporting that were given a name. */
import { useEffect, useState } from 'react';
import { Trash2 } from 'lucide-react';
import {
  EXPORT_KINDS,
  isCopied,
  exportKind,
  QUALITIES,
  soundIn,
  startExporter,
  type Quality,
  type SoundChoice,
} from '../../engine/index.ts';
import { Choice } from '../parts/choice.tsx';
import { NumberField } from '../parts/number-field.tsx';
import { useMontage } from '../stores/montage.ts';
import { usePreferences, type ExportWay } from '../stores/view.ts';

const SOUNDS: Record<SoundChoice, string> = { aac: 'AAC', opus: 'Opus', none: 'none' };
const QUALITY_NAMES: Record<Quality | 'own', string> = {
  small: 'small file',
  usual: 'usual',
  fine: 'fine',
  finest: 'finest, large',
  own: 'megabits a second…',
};

/** What this browser can write; null until it is known. */
function useWritable(): readonly string[] | null {
  const { width, height } = useMontage((s) => s.montage!.settings);
  const [kinds, setKinds] = useState<readonly string[] | null>(null);
  useEffect(() => {
    const exporter = startExporter();
    let gone = false;
    exporter.api
      .writableKinds(width, height)
      .then((there) => !gone && setKinds(there))
      .catch(() => undefined)
      .finally(() => exporter.dispose());
    return () => {
      gone = true;
    };
  }, [width, height]);
  return kinds;
}

export function WayOf({ way, onWay }: { way: ExportWay; onWay: (part: Partial<ExportWay>) => void }) {
  const writable = useWritable();
  const ways = usePreferences((s) => s.exportWays);
  const [name, setName] = useState('');
  const kind = exportKind(way.kind);
  const same = Object.keys(ways).find((one) => JSON.stringify(ways[one]) === JSON.stringify(way));
  const field = 'field w-52';
  return (
    <fieldset className="flex flex-col gap-2">
      <label className="flex items-center justify-between gap-2">
        As
        <select
          className={field}
          aria-label="Kind of file"
          value={kind.id}
          onChange={(event) => onWay({ kind: event.currentTarget.value })}
        >
          {EXPORT_KINDS.map(({ id, name: said }) => {
            const cannot = writable !== null && !writable.includes(id);
            return (
              <option key={id} value={id} disabled={cannot}>
                {cannot ? `${said}: not in this browser` : said}
              </option>
            );
          })}
        </select>
      </label>
      <label className="flex items-center justify-between gap-2">
        Sound
        <Choice
          label="Sound"
          className={field}
          value={soundIn(kind, way.sound)}
          options={kind.sounds}
          names={SOUNDS}
          onValue={(sound) => onWay({ sound })}
        />
      </label>
      <label className="flex items-center justify-between gap-2">
        Quality
        <span className="flex w-52 gap-1">
          <Choice
            label="Quality"
            className="field min-w-0 grow"
            value={way.megabits === null ? way.quality : 'own'}
            options={[...(Object.keys(QUALITIES) as Quality[]), 'own']}
            names={QUALITY_NAMES}
            onValue={(quality) => onWay(quality === 'own' ? { megabits: 12 } : { quality, megabits: null })}
          />
          {way.megabits !== null && (
            <NumberField
              label="Megabits a second"
              value={way.megabits}
              min={0.2}
              max={500}
              step={1}
              onValue={(megabits) => onWay({ megabits })}
            />
          )}
        </span>
      </label>
      {isCopied(kind.codec) && (
        <label
          className="flex items-center gap-2 text-[12px] text-fog"
          title={
            'Groups of pictures that no accent touches go into the file as they are in the source: no loss, and several ' +
            `times as fast. Only from ${kind.codecName} of the same size.`
          }
        >
          <input
            type="checkbox"
            className="accent-tide"
            checked={way.copy ?? false}
            onChange={(event) => onWay({ copy: event.currentTarget.checked })}
          />
          Take over what nothing touches, without encoding it again
        </label>
      )}
      <div className="flex items-center justify-end gap-1 text-[12px] text-fog">
        {Object.keys(ways).length > 0 && (
          <select
            className="field min-w-0 py-0"
            aria-label="Kept way of exporting"
            value={same ?? ''}
            onChange={(event) => {
              const kept = ways[event.currentTarget.value];
              if (kept) onWay(kept);
            }}
          >
            <option value="">kept ways…</option>
            {Object.keys(ways).map((one) => (
              <option key={one}>{one}</option>
            ))}
          </select>
        )}
        {same !== undefined ? (
          <button
            className="key-quiet"
            aria-label={`Forget the way ${same}`}
            onClick={() => {
              const { [same]: _, ...rest } = ways;
              usePreferences.setState({ exportWays: rest });
            }}
          >
            <Trash2 size={13} />
          </button>
        ) : (
          <>
            <input
              className="field w-28 py-0"
              aria-label="Name for this way of exporting"
              placeholder="name"
              maxLength={60}
              value={name}
              onChange={(event) => setName(event.currentTarget.value)}
            />
            <button
              className="key px-1.5 py-0"
              disabled={!name.trim()}
              onClick={() => {
                usePreferences.setState({ exportWays: { ...ways, [name.trim()]: way } });
                setName('');
              }}
            >
              Keep this way
            </button>
          </>
        )}
      </div>
    </fieldset>
  );
}

/** Titles: text over a stretch, or on each hit, counting them. */
import { useEffect, useState } from 'react';
import { nanoid } from 'nanoid';
import { Plus, Trash2 } from 'lucide-react';
import { DEFAULT_TITLE, TITLE_MOVES, TITLE_SIDES, type HitKind, type Title } from '../../core/document/types.ts';
import { missingLetters } from '../../core/accents/titles.ts';
import { carriedKinds } from '../../core/accents/placements.ts';
import { LIMITS } from '../../core/document/limits.ts';
import { placedTitle, unplacedTitle } from '../../core/document/formats.ts';
import { lettersMissing } from '../../engine/index.ts';
import { Choice } from '../parts/choice.tsx';
import { FileButton } from '../parts/file-button.tsx';
import { kindName } from '../parts/kinds.ts';
import { NumberField } from '../parts/number-field.tsx';
import { PinKeys } from '../parts/pin.tsx';
import { useDerived } from '../stores/derived.ts';
import { bringTypeface, setTitles } from '../stores/typefaces.ts';
import { useView } from '../stores/view.ts';

const MOVE_NAMES: Record<Title['comes'], string> = {
  cut: 'at once',
  fade: 'fading',
  drop: 'dropping in',
  push: 'pushed in',
  type: 'typed',
  flicker: 'flickering',
};
const SIDE_NAMES: Record<Title['align'], string> = { left: 'left', middle: 'middle', right: 'right' };
const FONT_NAMES: Record<Title['font'], string> = { sans: 'plain', mono: 'even width' };
const WHERES = ['all', 'each', 'clip', 'sections'] as const;
const WHERE_NAMES: Record<(typeof WHERES)[number], string> = {
  all: 'through the whole montage',
  each: 'on each hit',
  clip: 'on one clip',
  sections: 'in each section',
};
/** What fields stand for, for those who ask. */
const FIELDS_SAID =
  '{n} and {of}: which hit of how many. {name}: what it is called. {nth}: which of these. {score}: hits so far, ' +
  '{score:shot} the shots alone, {score:bass drum} the bass drums. {game}: the name of the profile. {time} of the montage, {up} and {down}: clocks, in a form as ' +
  '{up:mm:ss:ff} with minutes, seconds, frames, or hundredths as cc. {kind}, {frame}.';
const WEIGHTS = ['400', '600', '700', '900'] as const;

/** A title in a typeface that ships, or in one of the montage's own by its id. */
const writtenIn = ({ own: _, ...title }: Title, font: string): Title =>
  font === 'sans' || font === 'mono' ? { ...title, font } : { ...title, own: font };

/** A title that comes or goes by a move of its own, or by an accent, by its id. */
function moving(title: Title, end: 'comes' | 'goes', way: string): Title {
  const { [`${end}By` as const]: _, ...rest } = title;
  const move = TITLE_MOVES.find((one) => one === way);
  return move ? { ...rest, [end]: move } : { ...rest, [end]: 'cut', [`${end}By`]: way };
}

export function Titles() {
  const { montage } = useDerived()!;
  const { titles = [] } = montage;
  return (
    <>
      <h2 className="caption">Titles</h2>
      <ol className="flex flex-col gap-2" aria-label="Titles">
        {titles.map((title, i) => (
          <TitleCard key={title.id} title={title} at={i} />
        ))}
      </ol>
      <button
        className="key self-start text-[12px]"
        disabled={titles.length >= LIMITS.titles}
        onClick={() => setTitles((all) => [...all, { ...DEFAULT_TITLE, id: nanoid(8), text: 'Title' }])}
      >
        <Plus size={14} />
        Add a title
      </button>
    </>
  );
}

function TitleCard({ title, at }: { title: Title; at: number }) {
  const { montage, line } = useDerived()!;
  const kinds = carriedKinds(montage.hits.filter((h) => h.state === 'kept' || h.state === 'made'));
  const set = (change: Partial<Title>, group?: string): void =>
    setTitles(
      (all) => all.map((one) => (one.id === title.id ? { ...one, ...change } : one)),
      group && `title-${title.id}-${group}`,
    );
  const format = useView((s) => s.format);
  /** Sets its place in the shape that is looked at; `title` is as it is there. */
  const place = (change: Partial<Pick<Title, 'x' | 'y' | 'size'>>, group: string): void =>
    setTitles(
      (all) => all.map((one) => (one.id === title.id ? placedTitle(one, format, title, change) : one)),
      `title-${title.id}-${group}-${format ?? ''}`,
    );
  const { where } = title;
  const typefaces = montage.typefaces ?? [];
  const own = typefaces.find(({ id }) => id === title.own);
  const [missing, setMissing] = useState<readonly string[]>([]);
  const { text } = title;
  useEffect(() => {
    let current = true;
    const found = own ? lettersMissing(own, text) : Promise.resolve(missingLetters(text));
    void found.catch(() => []).then((letters) => current && setMissing(letters));
    return () => void (current = false);
  }, [own, text]);
  const setWhere = (kind: (typeof WHERES)[number]): void => {
    if (kind === 'each') set({ where: { kind, kinds: [], before: 0, after: Math.round(line.fps) } });
    else if (kind === 'clip') set({ where: { kind, clip: line.spans[0]?.clip.id ?? '' } });
    else if (kind === 'sections') set({ where: { kind, sections: [] } });
    else set({ where: { kind } });
  };
  const number = (label: string, key: 'size' | 'x' | 'y' | 'over' | 'pace', min: number, max: number, step = 1) => (
    <label className="flex items-center gap-1">
      {label}
      <NumberField
        label={`${label} of title ${at + 1}`}
        value={Math.round((title[key] ?? 1) * 100) / 100}
        min={min}
        max={max}
        step={step}
        className="field mono w-14 px-1 py-0 text-[12px]"
        onValue={(value) =>
          key === 'over' || key === 'pace'
            ? set({ [key]: key === 'over' ? Math.round(value) : value }, key)
            : place({ [key]: value }, key)
        }
      />
    </label>
  );
  return (
    <li
      className={`flex flex-col gap-1.5 rounded-md bg-plank p-2.5 text-[12px] text-fog ${title.on ? '' : 'opacity-60'}`}
      data-title={title.id}
    >
      <div className="flex items-start gap-2">
        <input
          type="checkbox"
          className="mt-1 accent-lamp"
          checked={title.on}
          aria-label={`Title ${at + 1} is on`}
          onChange={(event) => set({ on: event.currentTarget.checked })}
        />
        <textarea
          className="field min-h-12 min-w-0 grow py-1"
          aria-label={`Text of title ${at + 1}`}
          maxLength={LIMITS.titleText}
          title={FIELDS_SAID}
          value={title.text}
          onChange={(event) => set({ text: event.currentTarget.value }, 'text')}
        />
        <button
          className="key-quiet"
          aria-label={`Remove title ${at + 1}`}
          onClick={() => setTitles((all) => all.filter((one) => one.id !== title.id))}
        >
          <Trash2 size={14} />
        </button>
      </div>
      <div className="flex flex-wrap gap-1">
        {missing.length > 0 && (
          <p role="alert" className="w-full text-ember">
            {own ? own.name : 'The typefaces here'} {own ? 'does' : 'do'} not hold {missing.slice(0, 8).join(' ')}
            {missing.length > 8 ? ' and more' : ''}: another one of this machine draws them, or none.
          </p>
        )}
        {['{n}', '{of}', '{name}', '{nth}', '{score}', '{game}', '{time}', '{up}', '{down}'].map((field) => (
          <button
            key={field}
            className="key mono px-1 py-0 text-[11px]"
            aria-label={`Put ${field} into title ${at + 1}`}
            onClick={() => set({ text: `${title.text}${field}` })}
          >
            {field}
          </button>
        ))}
      </div>
      <div className="flex flex-wrap items-center gap-1.5">
        <Choice
          label={`Where title ${at + 1} is seen`}
          className="field py-0"
          value={WHERES.find((kind) => kind === where.kind) ?? 'all'}
          options={WHERES}
          names={WHERE_NAMES}
          onValue={setWhere}
        />
        {where.kind === 'each' && (
          <>
            <select
              className="field py-0"
              aria-label={`Kind of hit of title ${at + 1}`}
              value={where.kinds[0] ?? ''}
              onChange={(event) => {
                const kind = event.currentTarget.value as HitKind | '';
                set({ where: { ...where, kinds: kind ? [kind] : [] } });
              }}
            >
              <option value="">of any kind</option>
              {kinds.map((kind) => (
                <option key={kind} value={kind}>
                  {kindName(kind)}
                </option>
              ))}
            </select>
            {(['before', 'after'] as const).map((end) => (
              <label key={end} className="flex items-center gap-1">
                {end}
                <NumberField
                  label={`Frames ${end} the hit of title ${at + 1}`}
                  value={where[end]}
                  min={0}
                  max={3600}
                  onValue={(frames) => set({ where: { ...where, [end]: Math.round(frames) } }, end)}
                />
              </label>
            ))}
          </>
        )}
        {where.kind === 'clip' && (
          <select
            className="field py-0"
            aria-label={`Clip of title ${at + 1}`}
            value={where.clip}
            onChange={(event) => set({ where: { kind: 'clip', clip: event.currentTarget.value } })}
          >
            {line.spans.map((span) => (
              <option key={span.clip.id} value={span.clip.id}>
                clip {span.index + 1}
              </option>
            ))}
          </select>
        )}
      </div>
      <div className="flex flex-wrap items-center gap-1.5">
        <Choice
          label={`Typeface of title ${at + 1}`}
          className="field max-w-32 py-0"
          value={own?.id ?? title.font}
          options={['sans', 'mono', ...typefaces.map(({ id }) => id)]}
          names={{ ...FONT_NAMES, ...Object.fromEntries(typefaces.map(({ id, name }) => [id, name])) }}
          onValue={(font) => setTitles((all) => all.map((one) => (one.id === title.id ? writtenIn(one, font) : one)))}
        />
        <FileButton
          accept=".ttf,.otf,.woff,.woff2"
          className="key px-1.5 py-0"
          label="Typeface file …"
          onFiles={([brought]) => brought && void bringTypeface(title.id, brought.file)}
        />
        <select
          className="field py-0"
          aria-label={`Weight of title ${at + 1}`}
          value={String(title.weight)}
          onChange={(event) => set({ weight: Number(event.currentTarget.value) })}
        >
          {WEIGHTS.map((weight) => (
            <option key={weight}>{weight}</option>
          ))}
        </select>
        <PinKeys pinned={{ list: 'titles', id: title.id }} pin={title.pin} name={`title ${at + 1}`} />
        {number('size %', 'size', 0.5, 100, 0.5)}
        <label className="flex items-center gap-1">
          spacing %
          <NumberField
            label={`spacing % of title ${at + 1}`}
            value={Math.round((title.spacing ?? 0) * 100)}
            min={-30}
            max={300}
            className="field mono w-14 px-1 py-0 text-[12px]"
            onValue={(share) => set({ spacing: share / 100 }, 'spacing')}
          />
        </label>
        {/\{(up|down)[:}]/.test(title.text) && number('clock times', 'pace', 0.01, 100, 0.25)}
        <input
          type="color"
          className="h-6 w-8 bg-transparent"
          aria-label={`Colour of title ${at + 1}`}
          value={title.colour}
          onChange={(event) => set({ colour: event.currentTarget.value }, 'colour')}
        />
        <label className="flex items-center gap-1">
          <input
            type="checkbox"
            className="accent-tide"
            checked={title.box !== null}
            onChange={(event) => set({ box: event.currentTarget.checked ? '#101820' : null })}
          />
          box
        </label>
        {title.box !== null && (
          <input
            type="color"
            className="h-6 w-8 bg-transparent"
            aria-label={`Colour of the box of title ${at + 1}`}
            value={title.box}
            onChange={(event) => set({ box: event.currentTarget.value }, 'box')}
          />
        )}
        <label className="flex items-center gap-1">
          <input
            type="checkbox"
            className="accent-tide"
            checked={title.outline > 0}
            onChange={(event) => set({ outline: event.currentTarget.checked ? DEFAULT_TITLE.outline : 0 })}
          />
          outline
        </label>
        <label className="flex items-center gap-1">
          <input
            type="checkbox"
            className="accent-tide"
            checked={title.shadow}
            onChange={(event) => set({ shadow: event.currentTarget.checked })}
          />
          shadow
        </label>
        <label className="flex items-center gap-1" title="What accents do to the picture they do to the title, too">
          <input
            type="checkbox"
            className="accent-tide"
            checked={title.below ?? false}
            aria-label={`Title ${at + 1} is under the accents`}
            onChange={(event) => set({ below: event.currentTarget.checked })}
          />
          under the accents
        </label>
      </div>
      <div className="flex flex-wrap items-center gap-1.5">
        {number('right %', 'x', -300, 300)}
        {number('down %', 'y', -300, 300)}
        <Choice
          label={`Side of title ${at + 1}`}
          className="field py-0"
          value={title.align}
          options={TITLE_SIDES}
          names={SIDE_NAMES}
          onValue={(align) => set({ align })}
        />
        {!title.pin && (
          <label className="flex items-center gap-1" title="Moved into it, and smaller where it is too wide for it">
            <input
              type="checkbox"
              className="accent-tide"
              checked={title.safe ?? false}
              aria-label={`Title ${at + 1} is kept within the safe area`}
              onChange={(event) => set({ safe: event.currentTarget.checked })}
            />
            within the safe area
          </label>
        )}
        {format !== null && title.places?.[format] && (
          <button
            className="key px-1.5 py-0"
            onClick={() =>
              setTitles((all) => all.map((one) => (one.id === title.id ? unplacedTitle(one, format) : one)))
            }
          >
            Placed for this format alone ×
          </button>
        )}
      </div>
      <div className="flex flex-wrap items-center gap-1.5">
        {(['comes', 'goes'] as const).map((end) => (
          <label key={end} className="flex items-center gap-1">
            {end}
            <Choice
              label={`How title ${at + 1} ${end}`}
              className="field max-w-36 py-0"
              value={title[`${end}By`] ?? title[end]}
              options={[...TITLE_MOVES, ...montage.accents.map(({ id }) => id)]}
              names={{
                ...MOVE_NAMES,
                ...Object.fromEntries(montage.accents.map(({ id, name }) => [id, `by ${name}`])),
              }}
              onValue={(way) =>
                setTitles((all) => all.map((one) => (one.id === title.id ? moving(one, end, way) : one)))
              }
            />
          </label>
        ))}
        {number('in frames', 'over', 0, 600)}
      </div>
    </li>
  );
}

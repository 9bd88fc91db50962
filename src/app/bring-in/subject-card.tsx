/** The parts that a source's subject is cut out by, its edge, and how it is looked at. */
import { Pipette, Trash2 } from 'lucide-react';
import { PATH_DEEDS, type Source, type Subject, type SubjectKey } from '../../core/document/types.ts';
import { AS_IT_IS } from '../../core/subject/matte.ts';
import { Choice } from '../parts/choice.tsx';
import { carryBrushed, changePath, changeSubject, followPath, KEY, subjectShown } from '../stores/subject.ts';
import { findPeople } from '../stores/people.ts';
import { useView } from '../stores/view.ts';

const DEEDS = { adds: 'belongs to it', takes: 'does not', 'keeps within': 'nothing beyond it does' } as const;
const VIEWS = {
  seen: 'as it is',
  dimmed: 'all else dimmed',
  edge: 'its edge',
  matte: 'the matte',
  checks: 'before checks',
  colour: 'before a colour',
} as const;
const LOOKS = Object.keys(VIEWS) as (keyof typeof VIEWS)[];

export function SubjectCard({ source }: { source: Source }) {
  const { subject } = source;
  const drawing = useView((s) => s.drawing);
  const view = useView((s) => s.subjectView);
  const ground = useView((s) => s.subjectGround);
  const brushWidth = useView((s) => s.brush);
  const key = subject?.key;
  const setKey = (part: Partial<SubjectKey>, group?: string): void =>
    changeSubject(source.id, (s) => ({ ...s, key: { ...KEY, ...s.key, ...part } }), group && `subject-${group}`);
  const waitFor = (what: 'path' | 'colour' | 'on' | 'off'): void => {
    if (!subjectShown(source)) return;
    const brushes = what === 'on' || what === 'off';
    useView.setState({
      drawing: drawing === what ? null : what,
      ...(brushes && view === 'seen' && { subjectView: 'dimmed' }),
    });
  };
  const slider = (
    label: string,
    value: number,
    [min, max]: readonly [number, number],
    set: (value: number) => void,
    said = (share: number) => `${(share * 100).toFixed(1)} %`,
  ): React.ReactNode => (
    <label className="flex items-center gap-2">
      <span className="w-20">{label}</span>
      <input
        className="range grow"
        type="range"
        min={min}
        max={max}
        step={(max - min) / 200}
        aria-label={`${label} of the subject of ${source.name}`}
        value={value}
        onChange={(event) => set(Number(event.currentTarget.value))}
      />
      <span className="mono w-12 text-right">{said(value)}</span>
    </label>
  );
  const sees = key?.sees ?? AS_IT_IS;
  const ofSight = (name: keyof typeof AS_IT_IS, limits: readonly [number, number]): React.ReactNode =>
    slider(
      name,
      sees[name],
      limits,
      (value) => setKey({ sees: { ...sees, [name]: value } }, `sees-${name}`),
      name === 'blur' ? undefined : (value) => value.toFixed(2),
    );
  const ofKey = (name: 'low' | 'high' | 'near' | 'soft', label: string): React.ReactNode =>
    slider(label, key![name], [0, 1], (value) => setKey({ [name]: value }, name));
  const ofEdge = (name: 'grow' | 'soft', label: string, limits: readonly [number, number]): React.ReactNode =>
    slider(label, subject![name], limits, (value) =>
      changeSubject(source.id, (s: Subject) => ({ ...s, [name]: value }), `subject-edge-${name}`),
    );
  return (
    <div className="mt-1 flex flex-col gap-1 rounded-md border border-rope p-2" data-subject>
      <div className="flex flex-wrap gap-1">
        <button className="key px-1.5 py-0" aria-pressed={drawing === 'on'} onClick={() => waitFor('on')}>
          Brush what belongs to it
        </button>
        <button className="key px-1.5 py-0" aria-pressed={drawing === 'off'} onClick={() => waitFor('off')}>
          Brush what does not
        </button>
        <button className="key px-1.5 py-0" aria-pressed={drawing === 'path'} onClick={() => waitFor('path')}>
          Draw an outline
        </button>
        <button
          className="key px-1.5 py-0"
          title="On every frame of this clip; as long as it takes, the window moves in jerks"
          onClick={() => void findPeople(source)}
        >
          Find people
        </button>
        <button className="key px-1.5 py-0" disabled={Boolean(key)} onClick={() => setKey({ by: 'brightness' })}>
          By brightness
        </button>
        <button className="key px-1.5 py-0" disabled={Boolean(key)} onClick={() => setKey({ by: 'colour' })}>
          By colour
        </button>
      </div>
      {(drawing === 'on' || drawing === 'off') && (
        <>
          <p>Stroke over it on the picture; its edge is found.</p>
          <label className="flex items-center gap-2">
            <span className="w-20">brush</span>
            <input
              className="range grow"
              type="range"
              min={0.005}
              max={0.12}
              step={0.005}
              aria-label={`Width of the brush on ${source.name}`}
              value={brushWidth}
              onChange={(event) => useView.setState({ brush: Number(event.currentTarget.value) })}
            />
            <span className="mono w-12 text-right">{(brushWidth * 100).toFixed(1)} %</span>
          </label>
        </>
      )}
      {subject?.brushed && (
        <div className="flex items-center gap-1 border-t border-rope pt-1">
          <span className="grow">{subject.brushed.people ? 'People, mended' : 'Brushed'}</span>
          <span className="mono" title="Frames with strokes">
            {new Set(subject.brushed.strokes.map(({ t }) => t)).size}
          </span>
          <button
            className="key px-1 py-0"
            aria-label={`Carry the subject of ${source.name}`}
            title="Through the clip both ways, to the next frames with strokes, as far as it is recognised"
            onClick={() => void carryBrushed(source)}
          >
            Carry on
          </button>
          <button
            className="key-quiet"
            aria-label={`Remove what was brushed on ${source.name}`}
            onClick={() => changeSubject(source.id, ({ brushed: _, ...rest }) => rest)}
          >
            <Trash2 size={12} />
          </button>
        </div>
      )}
      {drawing === 'path' && <p>Press point after point on the picture; Enter, or the first point again, closes it.</p>}
      {drawing === 'colour' && <p>Press on the picture where it has the colour.</p>}
      {key && (
        <fieldset className="flex flex-col gap-1 border-t border-rope pt-1">
          <div className="flex items-center gap-2">
            <span className="grow">{key.by === 'colour' ? 'What has the colour' : 'What is as bright as this'}</span>
            {key.by === 'colour' && (
              <>
                <span
                  className="size-4 rounded border border-rope"
                  style={{
                    background: `rgb(${[key.red, key.green, key.blue].map((v) => Math.round(v * 255)).join(' ')})`,
                  }}
                />
                <button
                  className="key-quiet"
                  aria-label={`Pick the colour of the subject of ${source.name}`}
                  aria-pressed={drawing === 'colour'}
                  onClick={() => waitFor('colour')}
                >
                  <Pipette size={13} />
                </button>
              </>
            )}
            <label className="flex items-center gap-1">
              <input
                type="checkbox"
                className="accent-lamp"
                checked={key.invert}
                onChange={(event) => setKey({ invert: event.currentTarget.checked })}
              />
              is behind it
            </label>
            <button
              className="key-quiet"
              aria-label={`Remove the key of ${source.name}`}
              onClick={() => changeSubject(source.id, ({ key: _, ...rest }) => rest)}
            >
              <Trash2 size={12} />
            </button>
          </div>
          {key.by === 'brightness' ? (
            <>
              {ofKey('low', 'from')}
              {ofKey('high', 'to')}
            </>
          ) : (
            ofKey('near', 'as far as')
          )}
          {ofKey('soft', 'fades over')}
          {key.by === 'colour' &&
            key.invert &&
            slider('its light off', key.spill ?? 0, [0, 1], (spill) => setKey({ spill }, 'spill'))}
          <details>
            <summary className="cursor-pointer">How it sees the picture, which stays as it is</summary>
            <div className="mt-1 flex flex-col gap-1">
              {ofSight('blur', [0, 0.02])}
              {ofSight('contrast', [0.5, 3])}
              {ofSight('gamma', [0.3, 3])}
              {key.by === 'colour' && ofSight('saturation', [0, 3])}
            </div>
          </details>
        </fieldset>
      )}
      {subject?.paths.length ? (
        <p>
          Shift chooses several points: arrows move them, <kbd>,</kbd> and <kbd>.</kbd> turn, <kbd>-</kbd> and{' '}
          <kbd>+</kbd> scale.
        </p>
      ) : null}
      {subject?.paths.map((path, i) => (
        <div key={path.id} className="flex items-center gap-1 border-t border-rope pt-1">
          <span className="whitespace-nowrap">Outline {i + 1}</span>
          <Choice
            label={`What outline ${i + 1} of ${source.name} does`}
            value={path.does}
            options={PATH_DEEDS}
            names={DEEDS}
            className="field min-w-0 grow py-0"
            onValue={(does) => changePath(source.id, path.id, (now) => ({ ...now, does }))}
          />
          <span className="mono" title="Frames it is set on">
            {path.keys.length}
          </span>
          <button
            className="key px-1 py-0"
            aria-label={`Follow outline ${i + 1} of ${source.name}`}
            title="Through the clip, from the playhead both ways, as far as it is recognised"
            onClick={() => void followPath(source, path)}
          >
            Follow
          </button>
          <button
            className="key-quiet"
            aria-label={`Remove outline ${i + 1} of ${source.name}`}
            onClick={() => changePath(source.id, path.id, () => null)}
          >
            <Trash2 size={12} />
          </button>
        </div>
      ))}
      {subject && (
        <div className="flex flex-col gap-1 border-t border-rope pt-1">
          {ofEdge('grow', 'edge out', [-0.05, 0.05])}
          {ofEdge('soft', 'edge soft', [0, 0.1])}
          {slider('edge clean', subject.clean ?? 0, [0, 1], (clean) =>
            changeSubject(source.id, (s) => ({ ...s, clean }), 'subject-edge-clean'),
          )}
          <label className="flex items-center gap-2">
            <span className="w-20">shown</span>
            <Choice
              label={`How the subject of ${source.name} is shown`}
              value={view}
              options={LOOKS}
              names={VIEWS}
              className="field grow py-0"
              onValue={(subjectView) => useView.setState({ subjectView })}
            />
            {view === 'colour' && (
              <input
                type="color"
                className="h-6 w-8 bg-transparent"
                aria-label={`Colour behind the subject of ${source.name}`}
                value={ground}
                onChange={(event) => useView.setState({ subjectGround: event.currentTarget.value })}
              />
            )}
          </label>
        </div>
      )}
    </div>
  );
}

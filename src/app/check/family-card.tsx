/** One family of the same sound: what it looks and sounds like, and every answer to it. */
import { useState } from 'react';
import { Check as Keep, Repeat, Undo2, Volume2, X } from 'lucide-react';
import type { Occurrence } from '../../core/timeline/occurrences.ts';
import { FramePicture } from '../parts/frame-picture.tsx';
import { familyColour } from '../parts/kinds.ts';
import { choose } from '../stores/actions.ts';
import { familyName, hearFamily, loopClearest, type ShownFamily } from '../stores/families.ts';
import { answerFamily, moveMember, seekMore, takeBack } from '../stores/family-answers.ts';
import { hearFrames } from '../stores/player.ts';
import { useView } from '../stores/view.ts';
import { FamilyName } from './family-name.tsx';
import { FamilyParts } from './family-parts.tsx';
import { SoundPicture } from './sound-picture.tsx';

/** Contact frames of a family, from its first member to its last; of so many the last few are the least alike. */
const CONTACTS = 6;
const AT_THE_EDGE = 2;

/** Members from the beginning to the end, and those that hardly belong: a family that mixes sounds shows it. */
function contactsOf({ shown, hits, bonds }: ShownFamily): readonly Occurrence[] {
  if (shown.length <= CONTACTS) return shown;
  const bondOf = new Map(hits.map(({ id }, i) => [id, bonds[i]!]));
  const edge = [...shown].sort((a, b) => bondOf.get(a.hit.id)! - bondOf.get(b.hit.id)!).slice(0, AT_THE_EDGE);
  const rest = shown.filter((o) => !edge.includes(o));
  const count = CONTACTS - AT_THE_EDGE;
  const spread = Array.from({ length: count }, (_, i) => rest[Math.round((i * (rest.length - 1)) / (count - 1))]!);
  return [...spread, ...edge].sort((a, b) => a.frame - b.frame);
}

interface Props {
  readonly family: ShownFamily;
  readonly current: boolean;
  readonly all: readonly ShownFamily[];
}

export function FamilyCard({ family, current, all }: Props) {
  const { hits, named } = family;
  const kept = hits.filter(({ state }) => state === 'kept' || state === 'made').length;
  const rejected = hits.filter(({ state }) => state === 'rejected').length;
  return (
    <li
      className={`rounded-md p-2 ${current ? 'bg-plank ring-1 ring-lamp' : 'bg-plank/60'}`}
      data-family={family.id}
      data-state={`${kept}/${rejected}/${hits.length}`}
    >
      <div className="flex items-center gap-2">
        <span aria-hidden className="size-2.5 shrink-0 rounded-full" style={{ background: familyColour(family) }} />
        <span className="font-medium whitespace-nowrap">{hits.length} ×</span>
        <FamilyName family={family} current={current} />
        <span className="text-[12px] whitespace-nowrap text-fog">
          {named && named.state !== 'open' ? named.state : `likely ${Math.round(family.confidence * 100)} %`}
        </span>
      </div>
      <p className="mt-0.5 text-[12px] text-fog">
        {[
          kept > 0 && `${kept} kept`,
          rejected > 0 && `${rejected} rejected`,
          family.open > 0 && `${family.open} undecided`,
          family.faint > 0 && `${family.faint} of them no hits yet`,
        ]
          .filter(Boolean)
          .join(' · ')}
      </p>
      {family.satellite && (
        <p className="mt-0.5 text-[12px] text-lamp">
          Always {Math.round(family.satellite.gap * 1000)} ms after another sound: probably a part of it.
        </p>
      )}
      <ol className="mt-1.5 grid grid-cols-6 gap-0.5">
        {contactsOf(family).map((o) => (
          <Member key={o.key} occurrence={o} />
        ))}
      </ol>
      <div className="mt-1.5 flex items-center gap-1">
        <button
          className="key px-1.5 py-0.5 whitespace-nowrap"
          title="Plays the members one after another (Shift L)"
          onClick={() => hearFamily(family)}
        >
          <Volume2 size={14} />
          Hear
        </button>
        <button
          className="key px-1.5 py-0.5 whitespace-nowrap"
          title="Keeps all members (Shift K)"
          onClick={() => answerFamily(family, 'kept')}
        >
          <Keep size={14} />
          Keep all
        </button>
        <button
          className="key px-1.5 py-0.5 whitespace-nowrap"
          title="Rejects all members (Shift R)"
          onClick={() => answerFamily(family, 'rejected')}
        >
          <X size={14} />
          Reject all
        </button>
        {named && (
          <button
            className="key-quiet px-1.5 py-0.5"
            aria-label="Take the answer back"
            title="Takes the answer back: its hits are undecided again"
            onClick={() => takeBack(family)}
          >
            <Undo2 size={14} />
          </button>
        )}
      </div>
      {current && <Details family={family} all={all} />}
    </li>
  );
}

function Member({ occurrence, large = false }: { occurrence: Occurrence; large?: boolean }) {
  const chosen = useView((s) => s.chosen === occurrence.key);
  return (
    <li>
      <button
        className={`block w-full overflow-hidden rounded-sm hover:ring-1 hover:ring-tide ${chosen ? 'ring-2 ring-lamp' : ''}`}
        onClick={() => choose(occurrence)}
      >
        <FramePicture
          frame={occurrence.frame}
          width={large ? 128 : 96}
          height={large ? 72 : 54}
          plain
          label={`Member at frame ${occurrence.frame}`}
        />
      </button>
    </li>
  );
}

/** What is done with the current family beside the plain answers. */
function Details({ family, all }: { family: ShownFamily; all: readonly ShownFamily[] }) {
  const [open, setOpen] = useState(false);
  const chosen = useView((s) => s.chosen);
  const member = family.shown.find((o) => o.key === chosen);
  const more = family.named?.more ?? null;
  // Loudest, in the middle, faintest.
  const byLevel = [...family.shown].sort((a, b) => levelOf(family, b) - levelOf(family, a));
  const levels = [
    ['loudest', byLevel[0]],
    ['median', byLevel[byLevel.length >> 1]],
    ['faintest', byLevel.at(-1)],
  ] as const;
  return (
    <div className="mt-2 flex flex-col gap-2 border-t border-rope pt-2 text-[12px]">
      <div className="flex items-center gap-2">
        <SoundPicture family={family} />
        <div className="flex flex-col">
          {levels.map(
            ([name, o]) =>
              o && (
                <button
                  key={name}
                  className="key-quiet justify-between gap-2 px-1 py-0"
                  aria-label={`Hear the ${name} member`}
                  onClick={() => {
                    choose(o);
                    hearFrames([o.frame]);
                  }}
                >
                  <span>{name}</span>
                  <span className="mono text-fog">{Math.round(levelOf(family, o))} dB</span>
                </button>
              ),
          )}
        </div>
        <button
          className="key ml-auto px-1.5 py-0.5"
          title="Chooses the clearest member and loops it (Shift O)"
          onClick={() => loopClearest(family)}
        >
          <Repeat size={13} />
          Loop
        </button>
      </div>
      <div className="flex items-center gap-2">
        <button
          className="key px-1.5 py-0.5"
          aria-pressed={more !== null}
          title="Looks for more of this sound in all sources, fainter ones too (Shift M)"
          onClick={() => seekMore(family, more === null ? undefined : null)}
        >
          Find more like it
        </button>
        {more !== null && (
          <input
            className="range grow"
            type="range"
            min={0.35}
            max={0.9}
            step={0.01}
            value={more}
            aria-label="Likeness from which more of it is found"
            onChange={(event) => seekMore(family, Number(event.currentTarget.value))}
          />
        )}
        <button className="key-quiet ml-auto px-1.5 py-0.5" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? 'Fewer' : 'All'} members
        </button>
      </div>
      {open && (
        <ol className="grid max-h-48 grid-cols-4 gap-0.5 overflow-y-auto" aria-label="All members">
          {family.shown.map((o) => (
            <Member key={o.key} occurrence={o} large />
          ))}
        </ol>
      )}
      {member && (
        <label className="flex items-center gap-2 text-fog">
          <span className="whitespace-nowrap">The chosen one belongs to</span>
          <select
            className="field min-w-0 grow py-0.5"
            value={family.id}
            aria-label="Family of the chosen member"
            onChange={(event) => {
              const to = event.currentTarget.value;
              moveMember(family, member.hit, all.find(({ id }) => id === to) ?? null);
            }}
          >
            {all
              .filter(({ source }) => source === family.source)
              .map((one) => (
                <option key={one.id} value={one.id}>
                  {one.id === family.id ? 'this family' : `${one.hits.length} × ${familyName(one)}`}
                </option>
              ))}
            <option value="">none: it stands by itself</option>
          </select>
        </label>
      )}
      <FamilyParts family={family} all={all} />
    </div>
  );
}

const levelOf = (family: ShownFamily, { hit }: Occurrence): number =>
  family.loud[family.hits.findIndex(({ id }) => id === hit.id)] ?? -120;

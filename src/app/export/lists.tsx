/** Tables, reports, pictures and timelines of the montage as files. */
import {
  saveContactSheet,
  saveEnvelopes,
  saveFrame,
  savePlacements,
  saveReport,
  saveRow,
  saveSequence,
} from '../stores/lists.ts';
import { softenFlashes } from '../stores/flashes.ts';
import { writeMarksFile } from '../stores/marks.ts';
import { WRITTEN_MARKS } from '../parts/mark-formats.ts';

const FILES: readonly (readonly [name: string, title: string, save: () => unknown])[] = [
  ['Frame, PNG', 'The frame at the playhead at its full size', saveFrame],
  ['Frames, PNG', 'Every frame as a file, in a folder that you pick', saveSequence],
  ['Contact sheet, PNG', 'Every kept hit with number, kind and time', saveContactSheet],
  ['Row, OpenTimelineIO', 'Which stretch of which file follows which', () => saveRow('otio')],
  ['Row, decision list', 'The same as a CMX 3600 list', () => saveRow('cmx3600')],
  ['Placements, CSV', 'Where accents lie, a line each', savePlacements],
  ['Envelopes, CSV', 'What each accent does, a line a frame', () => saveEnvelopes('csv')],
  ['Envelopes, JSON', 'The same for all accents in one file', () => saveEnvelopes('json')],
  ['Report, JSON', 'How loud the mix is and how much flashes, measured now', saveReport],
];

export function Lists() {
  return (
    <>
      <div className="flex items-center gap-2 text-[12px] text-fog">
        <span
          className="grow"
          title="WCAG 2.2, success criterion 2.3.1, and ITU-R BT.1702: no more than three flashes within a second"
        >
          More than three flashes a second can hurt
        </span>
        <button
          className="key px-1.5 py-0.5"
          title="Measures all of it, and softens accents as little as brings it under the limit"
          onClick={() => void softenFlashes()}
        >
          Soften flashes
        </button>
      </div>
      <Files />
    </>
  );
}

function Files() {
  return (
    <details className="text-[12px] text-fog">
      <summary className="cursor-pointer">Pictures, tables and timelines</summary>
      <div className="mt-2 flex flex-wrap gap-1">
        {FILES.map(([name, title, save]) => (
          <button key={name} className="key px-1.5 py-0.5" title={title} onClick={() => void save()}>
            {name}
          </button>
        ))}
        {Object.entries(WRITTEN_MARKS).map(([id, name]) => (
          <button
            key={id}
            className="key px-1.5 py-0.5"
            title="The kept hits where the montage shows them"
            onClick={() => void writeMarksFile(id)}
          >
            Hits, {name}
          </button>
        ))}
      </div>
    </details>
  );
}

/** Footage that this browser cannot decode: a copy for editing, where this machine can make one. */
import { useEffect, useState } from 'react';
import { canCopy, letGo, makeCopy } from '../stores/working-copy.ts';
import { useView } from '../stores/view.ts';

export function Refused() {
  const files = useView((s) => s.refused);
  const [can, setCan] = useState<Awaited<ReturnType<typeof canCopy>> | undefined>(undefined);
  useEffect(() => {
    if (files.length) void canCopy().then(setCan);
  }, [files.length]);
  return (
    <ul className="flex flex-col gap-2">
      {files.map(({ file, why }) => (
        <li key={file.name} className="rounded-md border border-ember p-2 text-[12px]" data-refused>
          <p>{why}</p>
          <p className="mt-1 text-fog">
            {can === true
              ? 'This machine can make a copy of it for editing: H.264 with its sound, each frame at its own time, HDR toned down.'
              : can === null
                ? 'Without its server Akmeon cannot make a copy of it.'
                : typeof can === 'string' && `With ffmpeg a copy could be made here. Install it: ${can}`}
          </p>
          <div className="mt-1 flex gap-1">
            {can === true && (
              <button className="key px-2 py-0.5" onClick={() => void makeCopy(file)}>
                Make a copy
              </button>
            )}
            <button className="key-quiet" aria-label={`Leave ${file.name}`} onClick={() => letGo(file)}>
              Leave it
            </button>
          </div>
        </li>
      ))}
    </ul>
  );
}

/** A field for a time: takes frames, seconds and timecode, is checked on leaving, and never changes what is half typed. */
import { useState } from 'react';
import { framesFrom, frameToSeconds, secondsToFrame, timecode, type Rate } from '../../core/base/time.ts';

interface Props {
  readonly label: string;
  readonly rate: Rate;
  readonly seconds: number;
  readonly onSeconds: (seconds: number) => void;
}

export function TimeField({ label, rate, seconds, onSeconds }: Props) {
  /** The text while it is typed; null while the field shows the value. */
  const [typed, setTyped] = useState<string | null>(null);
  const wrong = typed !== null && typed.trim() !== '' && framesFrom(typed, rate) === null;
  return (
    <input
      className={`field mono w-[92px] px-1 py-0 text-[12px] ${wrong ? 'border-ember' : ''}`}
      aria-label={label}
      aria-invalid={wrong}
      title={wrong ? 'A time is 90 (frames), 1.5 s or 00:00:01:15' : 'Frames, seconds (1.5 s) or timecode'}
      value={typed ?? timecode(secondsToFrame(Math.max(0, seconds), rate), rate)}
      onFocus={(event) => event.currentTarget.select()}
      onChange={(event) => setTyped(event.currentTarget.value)}
      onBlur={() => {
        const frames = typed === null ? null : framesFrom(typed, rate);
        if (frames !== null) onSeconds(frameToSeconds(frames, rate));
        setTyped(null);
      }}
      onKeyDown={(event) => {
        if (event.key === 'Enter') event.currentTarget.blur();
        if (event.key === 'Escape') setTyped(null);
      }}
    />
  );
}

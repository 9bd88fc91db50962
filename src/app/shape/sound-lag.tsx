/** Sound and picture together: the device's own word, corrected by tapping to a click and to a light. */
import { useRef, useState } from 'react';
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/react';
import { tapOffset } from '../../core/finding/beats/edit.ts';
import { clock, deviceLatency } from '../stores/player.ts';
import { usePreferences } from '../stores/view.ts';

/** Seconds between beats, and how many are tapped to. */
const GAP = 0.6;
const BEATS = 10;

export function SoundLag() {
  const { soundLag } = usePreferences();
  const [open, setOpen] = useState(false);
  const device = Math.round(deviceLatency() * 1000);
  return (
    <div className="flex items-center gap-2 text-[12px] text-fog">
      <span className="grow" data-sound-lag={device + soundLag}>
        Pictures wait {device + soundLag} ms for the sound ({device} by the device, {soundLag} by tapping)
      </span>
      <button className="key py-0.5 whitespace-nowrap" onClick={() => setOpen(true)}>
        Tap and look
      </button>
      <Dialog open={open} onClose={() => setOpen(false)} className="relative z-50">
        <div className="fixed inset-0 grid place-items-center bg-night/70 p-6">
          <DialogPanel className="flex w-full max-w-lg flex-col gap-3 rounded-xl border border-rope bg-deck p-5">
            <DialogTitle className="text-[15px] font-semibold">Sound against picture</DialogTitle>
            {open && <Tapping onDone={() => setOpen(false)} />}
          </DialogPanel>
        </div>
      </Dialog>
    </div>
  );
}

type Phase = 'heard' | 'seen';

/** First to the click, then to the light: what the hand adds is in both and falls out. */
function Tapping({ onDone }: { onDone: () => void }) {
  const [phase, setPhase] = useState<Phase | null>(null);
  const [offsets, setOffsets] = useState<Partial<Record<Phase, number>>>({});
  const [lit, setLit] = useState(false);
  const [trouble, setTrouble] = useState('');
  const taps = useRef<number[]>([]);
  const now = useRef<() => number>(() => 0);
  const run = async (what: Phase): Promise<void> => {
    setTrouble('');
    const { now: time, sound } = await clock();
    if (what === 'heard' && !sound) return setTrouble('No sound device is playing, so there is nothing to tap to.');
    now.current = time;
    taps.current = [];
    setPhase(what);
    const first = time() + 0.8;
    if (what === 'heard') {
      for (let i = 0; i < BEATS; i++) {
        const tone = new OscillatorNode(sound!, { frequency: 1400 });
        const gain = new GainNode(sound!, { gain: 0 });
        gain.gain.setValueAtTime(0.4, first + i * GAP);
        gain.gain.exponentialRampToValueAtTime(0.001, first + i * GAP + 0.05);
        tone.connect(gain).connect(sound!.destination);
        tone.start(first + i * GAP);
        tone.stop(first + i * GAP + 0.06);
      }
    }
    const tick = (): void => {
      const t = time() - first;
      if (what === 'seen') setLit(t >= 0 && t % GAP < 0.1);
      if (t < BEATS * GAP) requestAnimationFrame(tick);
      else {
        setPhase(null);
        setLit(false);
        const offset = tapOffset(taps.current, first, GAP);
        if (offset === null) setTrouble('Too few taps: tap at least four times.');
        else setOffsets((old) => ({ ...old, [what]: offset }));
      }
    };
    requestAnimationFrame(tick);
  };
  const { heard, seen } = offsets;
  const found = heard === undefined || seen === undefined ? null : Math.round((heard - seen - deviceLatency()) * 1000);
  return (
    <>
      <p className="text-fog">
        Tap to ten clicks, then to ten lights, with any key or on the field. What lies between the two is how much later
        sound reaches you.
      </p>
      <button
        autoFocus
        className={`grid h-28 place-items-center rounded-lg border-2 ${lit ? 'border-lamp bg-lamp text-night' : 'border-rope bg-plank'}`}
        aria-label="Tap here"
        onPointerDown={() => phase && taps.current.push(now.current())}
        onKeyDown={(event) => {
          if (!phase || event.repeat) return;
          event.preventDefault();
          taps.current.push(now.current());
        }}
      >
        {phase ? 'Tap' : found !== null ? `Sound comes ${found} ms later than the device says` : ''}
      </button>
      {trouble && <p className="text-ember">{trouble}</p>}
      <div className="flex flex-wrap gap-2">
        <button className="key" disabled={phase !== null} onClick={() => void run('heard')}>
          1. To the click{heard === undefined ? '' : ` (${Math.round(heard * 1000)} ms)`}
        </button>
        <button className="key" disabled={phase !== null} onClick={() => void run('seen')}>
          2. To the light{seen === undefined ? '' : ` (${Math.round(seen * 1000)} ms)`}
        </button>
        <span className="grow" />
        <button
          className="key"
          onClick={() => {
            usePreferences.setState({ soundLag: 0 });
            onDone();
          }}
        >
          Use the device’s value
        </button>
        <button
          className="key"
          disabled={found === null}
          onClick={() => {
            usePreferences.setState({ soundLag: found! });
            onDone();
          }}
        >
          Use this
        </button>
      </div>
    </>
  );
}

/** The row at its recorded speeds, for comparison: what was seen stays in sight. */
import { derivedNow } from './derived.ts';
import { useMontage } from './montage.ts';
import { stopPlaying } from './player.ts';
import { useView } from './view.ts';

export function toggleRecorded(): void {
  stopPlaying();
  const before = derivedNow();
  const { playhead } = useView.getState();
  const span = before?.line.spanAt(playhead);
  useMontage.setState(({ recorded }) => ({ recorded: !recorded }));
  const after = derivedNow();
  if (!before || !after) return;
  const there = span && after.line.spans.find(({ clip }) => clip.id === span.clip.id);
  const t = span && before.line.sourceTime(span, before.line.timeOf(playhead));
  const moments = there && t !== undefined && t !== null ? after.line.momentsOf(there, t) : [];
  const frame = moments.length ? after.line.frameAt(moments[0]!) : Math.min(playhead, after.line.count - 1);
  useView.setState({ playhead: Math.max(0, frame) });
}

/** All work that outlasts a click, whichever montage it was begun in. */
import { isCancelled, Jobs, sentence } from '../../engine/index.ts';
import { notice, useView } from './view.ts';

export const jobs = new Jobs((list) => useView.setState({ jobs: list }));

/** Says why a job came to nothing; one that was cancelled needs no word. */
export const say = (error: unknown): void => {
  if (!isCancelled(error)) notice(sentence(error), 'error');
};

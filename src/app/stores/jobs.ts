/** All work that outlasts a click, whichever montage it was begun in. */
import { isCancelled, Jobs, sentence, type Job } from '../../engine/index.ts';
import { notice, settled, useView } from './view.ts';

/** What errors of jobs are about. */
const topics = new WeakMap<object, string>();

class ToldJobs extends Jobs {
  /** The same; what was said of trouble with such a job goes when one succeeds. */
  override async run<T>(about: Parameters<Jobs['run']>[0], work: (job: Job) => Promise<T>): Promise<T> {
    try {
      const result = await super.run(about, work);
      settled(topicOf(about));
      return result;
    } catch (error) {
      if (typeof error === 'object' && error !== null) topics.set(error, topicOf(about));
      throw error;
    }
  }
}

export const jobs = new ToldJobs((list) => useView.setState({ jobs: list }));

/** What trouble with a job is about: files are told from each other by their names. */
export const topicOf = ({ kind, label = '' }: { readonly kind: string; readonly label?: string }): string =>
  kind === 'bring-in' ? label : kind;

/** Says why a job came to nothing; one that was cancelled needs no word. */
export const say = (error: unknown): void => {
  if (!isCancelled(error)) notice(sentence(error), 'error', topics.get(Object(error) as object));
};

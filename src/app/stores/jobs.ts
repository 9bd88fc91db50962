/** All work that outlasts a click, whichever montage it was begun in. */
import { Jobs } from '../../engine/index.ts';
import { useView } from './view.ts';

export const jobs = new Jobs((list) => useView.setState({ jobs: list }));

import { rm } from 'node:fs/promises';
import { placeOfRun } from './prepared';

/** The browser that was everywhere goes when all is over, and one that a run of the same number left behind before it begins. */
const cleared = async (): Promise<void> => rm(await placeOfRun(process.pid), { recursive: true, force: true });

// eslint-disable-next-line no-restricted-syntax -- the runner asks for a default
export default cleared;

import * as z from 'zod';
import { registryOf } from '../registry';
import type { DriveDefinition } from './definition';
import { driftDrive } from './drift';
import { easeDrive } from './ease';
import { keysDrive } from './keys';
import { signalDrive } from './signal';
import { waveDrive } from './wave';

/** Every way in which a number changes over time, as they are offered. */
const all = [keysDrive, driftDrive, waveDrive, easeDrive, signalDrive] as const;

/** What changes a value over time. */
export type Drive = z.infer<(typeof all)[number]['schema']>;
type Definition = DriveDefinition<Drive>;

export const driveRegistry = registryOf<Definition>('drive', all);
export const drives = driveRegistry.all;

/** The definition of a drive's kind: what a document holds has been checked. */
export const driveOf = driveRegistry.of;

export const driveSchema: z.ZodType<Drive> = z.discriminatedUnion('kind', drives.map((d) => d.schema) as never);

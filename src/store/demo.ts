import { z } from 'zod';
import { calibrationSchema, DOCUMENT_VERSION, layerSchema, type Project, type Shot } from '../core/document/schema';
import { newId, newLayer, newShot, storedFar } from '../core/document/defaults';
import { sha256 } from '../formats/sha256';
import type { Database } from './database';
import { putMedia } from './media';
import { addProject } from './projects';

const demoSchema = z.object({
  shots: z.record(
    z.string(),
    z.object({
      title: z.string(),
      hfovDegrees: z.number(),
      near: z.number(),
      far: z.number(),
      spacing: z.enum(['perspective', 'even', 'log']),
      focus: z.array(z.number()).min(1),
      aperture: z.number().optional(),
      width: z.number().default(1600),
      height: z.number().default(900),
    }),
  ),
});

/** What was made by hand in the stacks, by shot. */
const madeSchema = z.record(z.string(), z.object({ exact: z.enum(['below', 'off']), layers: z.array(layerSchema) }));

const SEEDED = 'ombrage.demo-seen';
export const DEMO_PROJECT = 'slack-water';

/** Whether this browser has been given the demo project before. */
export const demoWasSeen = (): boolean => localStorage.getItem(SEEDED) !== null;

/** Adds the demo project: every still with its estimate, the exact depth as an imported map, and what was made by hand. */
export async function addDemo(db: Database): Promise<Project> {
  const index = demoSchema.parse(await (await fetch('/demo/demo.json')).json());
  const made = madeSchema.parse(await (await fetch('/demo/layers.json')).json());
  const keep = async (file: string): Promise<string> => {
    const blob = await (await fetch(`/demo/${file}`)).blob();
    const hash = await sha256(new Uint8Array(await blob.arrayBuffer()));
    await putMedia(db, hash, file, blob);
    return hash;
  };
  const shots: Shot[] = [];
  for (const [name, s] of Object.entries(index.shots).sort((a, b) => a[1].title.localeCompare(b[1].title))) {
    const plate = { sha256: await keep(`${name}.jpg`), name: `${name}.jpg`, width: s.width, height: s.height, bits: 8, hfovFromFile: s.hfovDegrees };
    const map = { sha256: await keep(`${name}.depth.png`), name: `${name}.depth.png`, width: s.width, height: s.height };
    const shot = newShot(plate);
    const hand = made[name] ?? { exact: 'below', layers: [] };
    const exact = { ...newLayer('imported', map), name: 'Exact depth', visible: hand.exact === 'below' };
    const blur = shot.settings.effects[0]!;
    shots.push({
      ...shot,
      name: s.title,
      settings: {
        ...shot.settings,
        layers: [...shot.settings.layers, ...(hand.exact === 'below' ? [exact, ...hand.layers] : [...hand.layers, exact])],
        calibration: calibrationSchema.parse({ near: s.near, far: storedFar(s.far), spacing: s.spacing, scaled: true }),
        effects: [{ ...blur, values: { ...blur.values, focus: s.focus[0]!, aperture: s.aperture ?? 1.4 } }],
      },
    });
  }
  const project = await addProject(db, {
    version: DOCUMENT_VERSION,
    id: (await db.projects.get(DEMO_PROJECT)) ? newId() : DEMO_PROJECT,
    name: 'Slack Water',
    shots,
  });
  localStorage.setItem(SEEDED, 'yes');
  return project;
}

import { useEffect, useRef } from 'react';
import { useDocument, useShot } from '../state/documentStore';
import { useSession } from '../state/sessionStore';
import { LiveRun } from './liveRun';
import { offerBrokenRecordings } from './brokenRecordings';

let current: LiveRun | null = null;

/** The live plate of the open shot, as it runs. */
export const liveRun = (): LiveRun | null => current;

/** Runs the live plate of the open shot for as long as it is open. */
export function LiveHost() {
  const project = useDocument((s) => s.project?.id);
  const shot = useShot();
  const ready = useSession((s) => s.preview !== null);
  const source = shot?.plate.live?.source;
  const values = shot?.plate.live?.values;
  const id = shot?.id;
  const latest = useRef(values);
  useEffect(() => {
    latest.current = values;
    if (values) current?.set(values);
  }, [values]);
  useEffect(() => {
    if (!project || !id || !source || !ready) return undefined;
    const run = new LiveRun(project, id, source, latest.current ?? {});
    current = run;
    void offerBrokenRecordings(project, id);
    return () => {
      if (current === run) current = null;
      run.close();
    };
  }, [project, id, source, ready]);
  return null;
}

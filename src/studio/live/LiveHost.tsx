import { useEffect, useRef } from 'react';
import { liveSources } from '../../live/registry';
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
  const live = shot?.plate.live;
  const source = live?.source;
  const id = shot?.id;
  const latest = useRef(live);
  useEffect(() => {
    latest.current = live;
    // one that is of another source is begun anew below
    if (live && current?.source === live.source) current.set(live);
  }, [live]);
  useEffect(() => {
    // a source that another version knows is said in Plate; its picture stands
    if (!project || !id || !source || !ready || !latest.current || !liveSources.knows(source)) return undefined;
    const run = new LiveRun(project, id, latest.current);
    current = run;
    void offerBrokenRecordings(project, id);
    return () => {
      if (current === run) current = null;
      run.close();
    };
  }, [project, id, source, ready]);
  return null;
}

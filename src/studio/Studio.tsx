import Box from '@mui/material/Box';
import { useSearchParams } from 'next/navigation';
import Button from '@mui/material/Button';
import Link from 'next/link';
import { lazy, Suspense, useCallback, useEffect, useState, type ComponentType, type ReactNode } from 'react';
import { useShallow } from 'zustand/react/shallow';
import { Chapters } from './Chapters';
import { chapterOf } from './chapters/registry';
import { downloadProject } from './chapters/output/downloadProject';
import { Divider } from './controls/Divider';
import { Guard } from './controls/Guard';
import { Notices } from './notices/Notices';
import { Score } from './Score';
import { useShortcuts } from './Shortcuts';
import { shotOf, useDocument } from './state/documentStore';
import { PANEL, useLayout } from './state/layoutStore';
import { leaveSession, openSession } from './state/session';
import { useSession } from './state/sessionStore';
import { dismiss, useNotices } from './notices/noticeStore';
import { factsOf, type Chapter } from './state/chapterFacts';
import { useView } from './state/viewStore';
import { TopBar } from './TopBar';
import { FileDrop } from './bringIn/FileDrop';
import { useBringIn } from './bringIn/useBringIn';
import { isNetworkFile, isProjectFile } from './bringIn/projectFiles';
import { useTrials } from './chapters/depth/tools/network/trialStore';
import { useSize } from './controls/useSize';
import { Viewer } from './viewer/Viewer';
import { ViewerHead } from './viewer/ViewerHead';

const panelOf = (name: Chapter): ComponentType => lazy(() => chapterOf(name).load());
const PANELS: Readonly<Record<Chapter, ComponentType>> = {
  plate: panelOf('plate'),
  depth: panelOf('depth'),
  calibrate: panelOf('calibrate'),
  effects: panelOf('effects'),
  camera: panelOf('camera'),
  output: panelOf('output'),
};

const RESCUE = { label: 'Download project file', run: () => void downloadProject() };

const ShortcutSheet = lazy(() => import('./ShortcutSheet').then((m) => ({ default: m.ShortcutSheet })));

/** The list of keys comes when it is first asked for. */
function Keys() {
  const shown = useView((s) => s.shortcuts);
  const [wanted, setWanted] = useState(false);
  if (shown && !wanted) setWanted(true);
  return wanted ? <ShortcutSheet /> : null;
}

const NetworkDialog = lazy(() => import('./chapters/depth/tools/network/NetworkDialog').then((m) => ({ default: m.NetworkDialog })));

/** How a network that was dropped is to be asked. */
function Networks() {
  const wanted = useTrials((s) => s.trials !== null);
  return wanted ? (
    <Suspense fallback={null}>
      <NetworkDialog />
    </Suspense>
  ) : null;
}

const LiveHost = lazy(() => import('./live/LiveHost').then((m) => ({ default: m.LiveHost })));

/** What runs of a live plate. */
function Live() {
  const live = useDocument((s) => shotOf(s)?.plate.live !== undefined);
  return live ? (
    <Suspense fallback={null}>
      <LiveHost />
    </Suspense>
  ) : null;
}

/** What is done with files that are dropped. */
function useDroppedFiles(): (files: File[]) => Promise<void> {
  const bringIn = useBringIn();
  return useCallback(
    async (files: File[]): Promise<void> => {
      // in Depth one picture is a map for this plate; what can be no plate is one everywhere
      const [only] = files;
      if (only && files.length === 1 && (factsOf(useView.getState().chapter).takesMaps ? !isProjectFile(only) : await isMapOnly(only))) {
        useView.getState().set({ chapter: 'depth' });
        const { importMap } = await import('./chapters/depth/importMap');
        await importMap(only);
        return;
      }
      if (only && files.length === 1 && isNetworkFile(only)) {
        const { bringNetwork } = await import('./chapters/depth/tools/network/networkTrials');
        await bringNetwork(only);
        return;
      }
      await bringIn(files);
    },
    [bringIn],
  );
}

/** The workspace: chapters, picture, rail, panel. */
export function Studio() {
  const query = useSearchParams();
  const projectId = query.get('project') ?? '';
  const shotId = query.get('shot') ?? '';
  const chapter = useView((s) => s.chapter);
  const problem = useSession((s) => s.problem);
  const alone = useLayout((l) => l.alone);
  useShortcuts();
  useEffect(() => {
    void openSession(projectId, shotId);
    return () => {
      // the next shot comes with everything round it
      useLayout.getState().set({ alone: false });
      leaveSession();
    };
  }, [projectId, shotId]);
  const drop = useDroppedFiles();
  return (
    <FileDrop onFiles={drop} hint={factsOf(chapter).takesMaps}>
      <Networks />
      <Live />
      <Box component="main" sx={{ display: 'flex', flexDirection: 'column', height: '100vh' }}>
        <Skips />
        <Title />
        {!alone && <TopBar />}
        {problem ? (
          <>
            <Problem text={problem.text} hint={problem.hint} again={() => void openSession(projectId, shotId)} />
            <Messages />
          </>
        ) : (
          <Workspace />
        )}
      </Box>
      <Suspense fallback={null}>
        <Keys />
      </Suspense>
    </FileDrop>
  );
}

/** Chapters, the picture with its score, and the panel; or the picture alone. */
function Workspace() {
  const chapter = useView((s) => s.chapter);
  const ready = useSession((s) => s.ready);
  const { panel, alone } = useLayout(useShallow((l) => ({ panel: l.panel, alone: l.alone })));
  const Panel = PANELS[chapter];
  return (
    <Box
      sx={{
        flex: 1,
        minHeight: 0,
        display: 'grid',
        gridTemplateColumns: alone ? '1fr' : columns(132, panel, 292),
        ...(!alone && { '@media (max-width: 1100px)': { gridTemplateColumns: columns(112, panel, 272) } }),
      }}
    >
      {!alone && (
        <Guard what="The list of chapters" rescue={RESCUE}>
          <Chapters />
        </Guard>
      )}
      <Box sx={{ display: 'flex', flexDirection: 'column', minWidth: 0, minHeight: 0 }}>
        {!alone && (
          <Guard what="The bar over the picture" rescue={RESCUE}>
            <ViewerHead />
          </Guard>
        )}
        <Box sx={{ flex: 1, minHeight: 0, display: 'grid', position: 'relative' }}>
          <Guard what="The picture" rescue={RESCUE}>
            <Viewer />
          </Guard>
          <Messages />
        </Box>
        {!alone && <Score rescue={RESCUE} />}
      </Box>
      {!alone && (
        <SidePanel>
          {ready && (
            <Guard key={chapter} what={factsOf(chapter).label} rescue={RESCUE}>
              <Suspense fallback={null}>
                <Panel />
              </Suspense>
            </Guard>
          )}
        </SidePanel>
      )}
    </Box>
  );
}

/** Chapters, picture and panel beside each other, px: the panel as it was dragged, or as is usual, and never so wide that no picture is left. */
const columns = (chapterWidth: number, panel: number | null, usual: number): string =>
  `${chapterWidth}px minmax(0,1fr) ${panel === null ? `${usual}px` : `min(${panel}px, 45vw)`}`;

/** The panel of a chapter; its border is dragged. */
function SidePanel({ children }: { children: ReactNode }) {
  const [ref, size] = useSize<HTMLDivElement>();
  const set = useLayout((s) => s.set);
  return (
    <Box ref={ref} sx={{ position: 'relative', minHeight: 0, display: 'grid' }}>
      <Divider
        label="Between the picture and the panel"
        upright
        size={Math.round(size.width)}
        limits={[PANEL.least, PANEL.most]}
        onChange={(panel) => set({ panel })}
        onReset={() => set({ panel: null })}
      />
      <Box component="aside" aria-label="Panel" sx={{ borderLeft: '1px solid var(--line)', overflowY: 'auto', overflowX: 'hidden', minHeight: 0 }}>
        {children}
      </Box>
    </Box>
  );
}

/** Files that hold depth alone, by their names. */
async function isMapOnly(file: File): Promise<boolean> {
  if (!/\.(tiff?|exr|pfm|npy)$/i.test(file.name)) return false;
  const { inspectStill } = await import('../formats/inspect');
  return inspectStill(new Uint8Array(await file.arrayBuffer()), file.name, false).then(
    (facts) => facts.plate === false,
    () => false,
  );
}

/** Ways past everything else, for those who go through the page with the Tab key; seen while they have the focus. */
function Skips() {
  const to: readonly (readonly [string, string])[] = [
    ['Go to the picture', '[data-testid="viewer"] canvas'],
    ['Go to the panel', 'aside button, aside input, aside [tabindex="0"]'],
    ['Go to the depth rail', '[data-testid="rail"] [role="slider"]'],
  ];
  return (
    <Box component="nav" aria-label="Go to" sx={{ position: 'absolute', zIndex: 1500, left: 8, top: 8, display: 'flex', gap: '6px' }}>
      {to.map(([label, place]) => (
        <Button
          key={label}
          variant="contained"
          onClick={() => document.querySelector<HTMLElement>(place)?.focus()}
          sx={{
            position: 'absolute',
            whiteSpace: 'nowrap',
            '&:not(:focus-visible)': { clipPath: 'inset(50%)', width: 1, height: 1, overflow: 'hidden' },
          }}
        >
          {label}
        </Button>
      ))}
    </Box>
  );
}

/** The heading of the page and the name of the window, for those who cannot see which shot is open. */
function Title() {
  const name = useDocument((s) => shotOf(s)?.name);
  const project = useDocument((s) => s.project?.name);
  useEffect(() => {
    document.title = name && project ? `${name} · ${project} · Ombrage` : 'Ombrage';
  }, [name, project]);
  return (
    <Box component="h1" sx={{ position: 'absolute', width: 1, height: 1, overflow: 'hidden', clipPath: 'inset(50%)', margin: 0 }}>
      {name ?? 'Shot'}
    </Box>
  );
}

function Messages() {
  const notices = useNotices((s) => s.notices);
  return <Notices notices={notices} dismiss={dismiss} />;
}

function Problem({ text, hint, again }: { text: string; hint: string; again: () => void }) {
  return (
    <Box
      role="alert"
      sx={{
        flex: 1,
        display: 'flex',
        flexDirection: 'column',
        alignItems: 'center',
        justifyContent: 'center',
        gap: '10px',
        textAlign: 'center',
        padding: '20px',
      }}
    >
      <Box sx={{ fontSize: 15, fontWeight: 600 }}>{text}</Box>
      <Box sx={{ color: 'var(--mute)' }}>{hint}</Box>
      <Box sx={{ display: 'flex', gap: '8px' }}>
        <Button onClick={again}>Try again</Button>
        <Button variant="contained" component={Link} href="/">
          All shots
        </Button>
      </Box>
    </Box>
  );
}

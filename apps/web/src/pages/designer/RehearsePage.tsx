import { SegmentedControl } from '@mantine/core';
import { loadPatternEngine } from '@ypomet/core';
import { useEffect, useState } from 'react';
import { useLocation, useNavigate } from 'react-router';
import { useDraft } from '../../features/drafts/draft-context.tsx';
import { PathStrip } from '../../features/rehearsal/PathStrip.tsx';
import { RehearsalBar } from '../../features/rehearsal/RehearsalBar.tsx';
import { RehearsalForm } from '../../features/rehearsal/RehearsalForm.tsx';
import { LaterRehearsal, RehearsalProvider, useRehearsal } from '../../features/rehearsal/rehearsal-context.tsx';
import { readShared } from '../../features/rehearsal/rehearsal-state.ts';
import { TestsPanel } from '../../features/rehearsal/TestsPanel.tsx';
import { WhyPanel } from '../../features/rehearsal/WhyPanel.tsx';
import { Notice } from '../../shared/Notice.tsx';
import { PanelBoundary } from '../../shared/PanelBoundary.tsx';
import classes from './RehearsePage.module.css';

/** Values are held against patterns here. */
export const ready = loadPatternEngine();

/** Who is here: the analyst, trying answers. They want to see the form as the participant will, which way it would go, and why. */
export const RehearsePage = () => (
  <RehearsalProvider>
    <Rehearsing />
  </RehearsalProvider>
);

type Beside = 'why' | 'tests';

function Rehearsing() {
  const { form } = useRehearsal();
  const { definition } = useDraft();
  const [beside, setBeside] = useState<Beside>('why');
  const isUnread = useShared();
  return (
    <div className={classes.page}>
      <LaterRehearsal>
        <RehearsalBar />
      </LaterRehearsal>
      {isUnread && (
        <div className={classes.unread}>
          <Notice tone="caution" title="The link holds no rehearsal">
            It was cut off or changed on its way. Ask for it again, or begin one here.
          </Notice>
        </div>
      )}
      <LaterRehearsal>
        <PathStrip />
      </LaterRehearsal>
      <RehearsalForm />
      <div className={classes.beside}>
        <SegmentedControl
          size="xs"
          className={classes.choose}
          aria-label="What is shown beside the form"
          data={[
            { value: 'why', label: 'Why' },
            { value: 'tests', label: definition.tests.length > 0 ? `Tests (${definition.tests.length})` : 'Tests' },
          ]}
          value={beside}
          onChange={(chosen) => setBeside(chosen as Beside)}
        />
        <PanelBoundary name="The reasons" resetKey={form}>
          <LaterRehearsal>{beside === 'why' ? <WhyPanel /> : <TestsPanel />}</LaterRehearsal>
        </PanelBoundary>
      </div>
    </div>
  );
}

/** Opens the rehearsal that the address ends with, once; whether there is something that is none. */
function useShared(): boolean {
  const { open } = useRehearsal();
  const { hash, pathname } = useLocation();
  const navigate = useNavigate();
  const [isUnread, setUnread] = useState(false);
  useEffect(() => {
    if (hash.length < 2) return;
    const state = readShared(hash.slice(1));
    if (state) open(state);
    setUnread(state === null);
    navigate(pathname, { replace: true });
  }, [hash, pathname, open, navigate]);
  return isUnread;
}

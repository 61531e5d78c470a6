import { Button } from '@mantine/core';
import { useNavigate } from 'react-router';
import { PanelBoundary } from '../../shared/PanelBoundary.tsx';
import classes from './RehearsalDrawer.module.css';
import { RehearsalForm } from './RehearsalForm.tsx';
import { LaterRehearsal, RehearsalProvider, useRehearsal } from './rehearsal-context.tsx';
import { WhyPanel } from './WhyPanel.tsx';

/** Who is here: the analyst, changing the plan, who wants to see with each change what a participant would see. */
export const RehearsalDrawer = ({ onClose }: { readonly onClose: () => void }) => (
  <RehearsalProvider>
    <Drawer onClose={onClose} />
  </RehearsalProvider>
);

function Drawer({ onClose }: { readonly onClose: () => void }) {
  const { form, workflow, startOver } = useRehearsal();
  const navigate = useNavigate();
  return (
    <section className={classes.drawer} aria-label="Rehearsal">
      <header className={classes.head}>
        <h2>Rehearsal</h2>
        <Button size="compact-xs" variant="default" onClick={() => startOver()}>
          Start over
        </Button>
        <Button size="compact-xs" variant="default" onClick={() => navigate(`/workflows/${workflow.definition.key}/rehearse`)}>
          Full screen
        </Button>
        <Button size="compact-xs" variant="default" onClick={onClose}>
          Close
        </Button>
      </header>
      <div className={classes.two}>
        <RehearsalForm />
        <PanelBoundary name="The reasons" resetKey={form}>
          <LaterRehearsal>
            <WhyPanel />
          </LaterRehearsal>
        </PanelBoundary>
      </div>
    </section>
  );
}

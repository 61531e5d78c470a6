import { useQuery } from '@tanstack/react-query';
import { useNavigate } from 'react-router';
import { workflowsQuery } from '../drafts/queries.ts';
import type { Command } from './commands.ts';
import { Palette } from './Palette.tsx';

/** What the open page offers, and the ways to every other page. */
export function OpenPalette({
  own,
  takeTyped,
  onClose,
}: {
  readonly own: readonly Command[];
  readonly takeTyped: () => string;
  readonly onClose: () => void;
}) {
  const navigate = useNavigate();
  const { data = [] } = useQuery(workflowsQuery);
  const pages = [
    ['/workflows', 'Workflows'],
    ['/desk', 'Desk'],
    ['/dispatch', 'Dispatch log'],
    ['/mailbox', 'Mailbox'],
  ] as const;
  const go = (to: string, name: string, group: string): Command => ({ id: to, name, group, run: () => void navigate(to) });
  const commands = [
    ...own,
    ...pages.map(([to, name]) => go(to, name, 'Page')),
    ...data.flatMap(({ key, name }) => [
      go(`/workflows/${key}/plan`, name, 'Workflow'),
      go(`/workflows/${key}/rehearse`, `Rehearse ${name}`, 'Workflow'),
      go(`/workflows/${key}/versions`, `Versions of ${name}`, 'Workflow'),
    ]),
  ];
  return <Palette commands={commands} takeTyped={takeTyped} onClose={onClose} />;
}

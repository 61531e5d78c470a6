import { useQuery } from '@tanstack/react-query';
import { useDraft } from '../../features/drafts/draft-context.tsx';
import { LinkPanel } from '../../features/public-intake/LinkPanel.tsx';
import { publicLinksQuery } from '../../features/public-intake/queries.ts';
import { Loaded } from '../../shared/Loaded.tsx';
import classes from './Versions.module.css';

/** Who is here: the analyst, who wants to give people outside an address to hand something in at, and to see what comes by it. */
export function IntakesPage() {
  const { definition } = useDraft();
  const query = useQuery(publicLinksQuery(definition.key));
  return (
    <main className={classes.page}>
      <h2>Public intake</h2>
      <p className={classes.lead}>
        People without an account begin records by the public link of an intake, follow them at a private address, and answer
        there when they are sent back. A link is of the version in force; what is drafted reaches it when it is published.
      </p>
      <Loaded query={query} rows={6}>
        {(entries) =>
          entries.length === 0 ? (
            <p className={classes.soft}>
              No intake of this workflow is in force. “Publish” makes a version; its intakes can then have public links.
            </p>
          ) : (
            entries.map((entry) => <LinkPanel key={entry.stage} workflow={definition.key} name={definition.name} entry={entry} />)
          )
        }
      </Loaded>
    </main>
  );
}

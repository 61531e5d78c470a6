import { useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { NavLink, useParams } from 'react-router';
import { mailboxQuery, mailQuery } from '../../features/dispatch/queries.ts';
import { useSession } from '../../features/session/queries.ts';
import { formatInstant } from '../../shared/instants.ts';
import { Loaded } from '../../shared/Loaded.tsx';
import { LoadedPages } from '../../shared/LoadedPages.tsx';
import classes from './Dispatch.module.css';
import { DispatchNav } from './DispatchNav.tsx';

/** Who is here: the analyst, reading what participants would have got. The mail server is simulated: nothing left the machine. */
export function MailboxPage() {
  const { mail } = useParams();
  const list = useInfiniteQuery(mailboxQuery);
  const { workspace } = useSession();
  return (
    <main className={classes.page}>
      <DispatchNav />
      <div className={classes.mailbox}>
        <section aria-label="Mails">
          <h1>Simulated mailbox</h1>
          <LoadedPages list={list} rows={6} empty={<p className={classes.none}>No mail has come in yet.</p>}>
            {(entries) => (
              <ul className={classes.mails}>
                {entries.map((entry) => (
                  <li key={entry.id}>
                    <NavLink
                      to={`/mailbox/${entry.id}`}
                      className={({ isActive }) => `${classes.mail} ${isActive ? classes.open : ''}`}
                    >
                      <strong>{entry.subject}</strong>
                      <span>{entry.to.join(', ')}</span>
                      <span className={classes.soft}>{formatInstant(entry.receivedAt, workspace)}</span>
                    </NavLink>
                  </li>
                ))}
              </ul>
            )}
          </LoadedPages>
        </section>
        <section aria-label="Mail" className={classes.reading}>
          {mail ? <Mail id={mail} /> : <p className={classes.none}>Choose a mail to read it.</p>}
        </section>
      </div>
    </main>
  );
}

function Mail({ id }: { readonly id: string }) {
  const query = useQuery(mailQuery(id));
  return (
    <Loaded query={query}>
      {(mail) => (
        <article>
          <h2>{mail.subject}</h2>
          <p className={classes.soft}>
            To {mail.to.join(', ')} · from {mail.from}
          </p>
          {mail.attachments.length > 0 && (
            <p className={classes.soft}>
              With {mail.attachments.map(({ name, bytes }) => `${name} (${bytes} bytes)`).join(', ')}
            </p>
          )}
          {mail.html === null ? (
            <pre className={classes.text}>{mail.text}</pre>
          ) : (
            // Nothing in a mail runs or is loaded here.
            <iframe className={classes.html} title="The mail as it reads" sandbox="" srcDoc={mail.html} />
          )}
          <details>
            <summary>As plain text</summary>
            <pre className={classes.text}>{mail.text}</pre>
          </details>
          <details>
            <summary>Headers</summary>
            <pre className={`${classes.headers} mono`}>
              {mail.headers.map(({ name, value }) => `${name}: ${value}`).join('\n')}
            </pre>
          </details>
        </article>
      )}
    </Loaded>
  );
}

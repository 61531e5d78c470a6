import type { FollowedDocument } from '@ypomet/contract';
import { type ReactNode, useEffect, useLayoutEffect } from 'react';
import { SchemeSwitch } from '../../shared/SchemeSwitch.tsx';
import { SessionProvider } from '../session/queries.ts';
import classes from './Guest.module.css';
import { actAs } from './queries.ts';

/** From here on the page's calls are a guest's, by their pass. */
export function usePass(pass: string | null): void {
  // Before anything below asks the server for something.
  useLayoutEffect(() => {
    actAs(pass);
    return () => actAs(null);
  }, [pass]);
}

/** Somebody without an account, where a form or a record asks who is there. */
export function GuestSession({
  guest,
  workspace,
  children,
}: {
  readonly guest: FollowedDocument['guest'];
  readonly workspace: FollowedDocument['workspace'];
  readonly children: ReactNode;
}) {
  return <SessionProvider value={{ member: { ...guest, email: '', roles: [] }, workspace }}>{children}</SessionProvider>;
}

/** The frame of a page for guests: whose it is, and nothing that leads elsewhere. */
export function GuestFrame({
  name,
  title,
  isEmbedded = false,
  isWide = false,
  children,
}: {
  readonly name: string;
  readonly title: string;
  readonly isEmbedded?: boolean;
  /** For two columns beside each other. */
  readonly isWide?: boolean;
  readonly children: ReactNode;
}) {
  useEffect(() => {
    if (title !== '') window.document.title = `${title} · ${name}`;
  }, [title, name]);
  return (
    <div className={classes.frame} data-embedded={isEmbedded}>
      {!isEmbedded && (
        <header className={classes.bar}>
          <span className={classes.name}>{name}</span>
          <SchemeSwitch />
        </header>
      )}
      <main className={classes.content} data-wide={isWide}>
        {children}
      </main>
    </div>
  );
}

import { Button, PasswordInput, Select, Switch, Textarea, TextInput } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import type { OutletDocument, OutletSettings } from '@ypomet/contract';
import { makeKey, NEXT_PAGE_PATTERN } from '@ypomet/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { outletsQuery, useDeleteOutlet, usePutOutlet, useTryOutlet } from '../../features/consequences/queries.ts';
import { useSession } from '../../features/session/queries.ts';
import { usePutNextPages } from '../../features/workspace/queries.ts';
import { Loaded } from '../../shared/Loaded.tsx';
import { Notice } from '../../shared/Notice.tsx';
import { problemText } from '../../shared/problems.ts';
import { CountInput } from '../../shared/reading/CountInput.tsx';
import classes from './Dispatch.module.css';
import { DispatchNav } from './DispatchNav.tsx';

const KINDS: Readonly<Record<OutletSettings['kind'], string>> = {
  mail: 'Mail server',
  web: 'Web endpoint',
  file: 'File register',
};
const FRESH: Readonly<Record<OutletSettings['kind'], OutletSettings>> = {
  mail: {
    kind: 'mail',
    host: '',
    port: 587,
    encryption: 'starttls',
    user: '',
    from: 'no-reply@ypomet.invalid',
    fromName: 'Ypomet',
  },
  web: { kind: 'web', address: 'https://', authentication: 'signature', timeoutSeconds: 20 },
  file: { kind: 'file', folder: 'Register' },
};

type Editing = {
  readonly key: string | null;
  readonly name: string;
  readonly settings: OutletSettings;
  readonly hasSecret: boolean;
};

/** Who is here: the administrator, connecting the workspace; or the analyst, seeing where things can be sent and what waits. */
export function OutletsPage() {
  const query = useQuery(outletsQuery);
  const { member } = useSession();
  const isAdministrator = member.roles.includes('administrator');
  const [editing, setEditing] = useState<Editing | null>(null);
  return (
    <main className={classes.page}>
      <DispatchNav />
      <h1>Outlets</h1>
      <p className={classes.none}>Places that deliveries go to, set up once. Designs name them by their key.</p>
      <Loaded query={query} rows={4}>
        {(outlets) => (
          <>
            <div className={classes.outlets}>
              {outlets.map((outlet) => (
                <Outlet key={outlet.key} outlet={outlet} isOpen={isAdministrator} onEdit={() => setEditing(outlet)} />
              ))}
            </div>
            {isAdministrator && (
              <p className={classes.retry}>
                {(Object.keys(KINDS) as OutletSettings['kind'][]).map((kind) => (
                  <Button
                    key={kind}
                    size="compact-sm"
                    variant="default"
                    mr={8}
                    onClick={() => setEditing({ key: null, name: KINDS[kind], settings: FRESH[kind], hasSecret: false })}
                  >
                    + {KINDS[kind].toLowerCase()}
                  </Button>
                ))}
              </p>
            )}
            {editing && (
              <OutletForm
                key={editing.key ?? editing.settings.kind}
                editing={editing}
                taken={outlets.map(({ key }) => key)}
                onDone={() => setEditing(null)}
              />
            )}
          </>
        )}
      </Loaded>
      <NextPages isOpen={isAdministrator} />
    </main>
  );
}

/** Pages that what is read after a hand-off may lead to. */
function NextPages({ isOpen }: { readonly isOpen: boolean }) {
  const { workspace } = useSession();
  const kept = workspace.nextPages.join('\n');
  const [typed, setTyped] = useState(kept);
  const put = usePutNextPages();
  const addresses = typed.split('\n').flatMap((line) => line.trim() || []);
  const bad = addresses.find((address) => !NEXT_PAGE_PATTERN.test(address));
  return (
    <section className={classes.next} aria-label="Next pages">
      <h2>Next pages</h2>
      <p className={classes.soft}>
        Pages of other places that an answer may offer after a hand-off, each with what lies below it. Answers lead nowhere else.
      </p>
      <Textarea
        size="xs"
        aria-label="Next pages, a line each"
        autosize
        minRows={2}
        classNames={{ input: 'mono' }}
        placeholder="https://museum.example/visit"
        readOnly={!isOpen}
        value={typed}
        error={bad === undefined ? undefined : `“${bad}” is no address like https://museum.example/visit.`}
        onChange={({ currentTarget: { value } }) => setTyped(value)}
      />
      {put.isError && <p className={classes.fault}>{problemText(put.error)}</p>}
      {isOpen && (
        <Button
          size="compact-sm"
          mt={8}
          disabled={bad !== undefined || typed === kept}
          loading={put.isPending}
          onClick={() => put.mutate(addresses, { onSuccess: ({ nextPages }) => setTyped(nextPages.join('\n')) })}
        >
          Keep the next pages
        </Button>
      )}
    </section>
  );
}

/** Where it goes, in a line. */
function placeOf(settings: OutletSettings): string {
  switch (settings.kind) {
    case 'mail':
      return settings.host === '' ? 'the server’s own mail server' : `${settings.host}:${settings.port}`;
    case 'web':
      return settings.address;
    case 'file':
      return `folder ${settings.folder}`;
    default:
      return settings satisfies never;
  }
}

function Outlet({
  outlet,
  isOpen,
  onEdit,
}: {
  readonly outlet: OutletDocument;
  readonly isOpen: boolean;
  readonly onEdit: () => void;
}) {
  const trial = useTryOutlet();
  const remove = useDeleteOutlet();
  const { waiting, queued } = outlet;
  return (
    <section className={classes.outlet} aria-label={outlet.name}>
      <div>
        <h2>{outlet.name}</h2>
        <p className={classes.soft}>
          {KINDS[outlet.settings.kind]} · <span className="mono">{outlet.key}</span> · {placeOf(outlet.settings)}
          {outlet.hasSecret && ' · with a secret'}
        </p>
        <p className={classes.soft}>
          {outlet.usedBy.length > 0 ? `Used by ${outlet.usedBy.join(', ')}` : 'No published workflow sends by it'}
          {queued > 0 && ` · ${queued} on their way`}
          {waiting > 0 && (
            <>
              {' · '}
              <Link to={`/dispatch?outlet=${outlet.key}&status=waiting`}>{waiting} wait for a person</Link>
            </>
          )}
        </p>
        {trial.data && (
          <p role="status" className={trial.data.isWorking ? classes.works : classes.fault}>
            {trial.data.isWorking ? 'It works' : 'It doesn’t work'}: {trial.data.answer} ({trial.data.durationMs} ms)
          </p>
        )}
        {[trial.error, remove.error].map((error) =>
          error ? (
            <p key={error.message} role="alert" className={classes.fault}>
              {error.message} {problemText(error)}
            </p>
          ) : null,
        )}
      </div>
      {isOpen && (
        <div className={classes.actions}>
          <Button size="compact-sm" variant="default" loading={trial.isPending} onClick={() => trial.mutate(outlet.key)}>
            Try it
          </Button>
          <Button size="compact-sm" variant="default" onClick={onEdit}>
            Change
          </Button>
          {outlet.key !== 'mail' && (
            <Button size="compact-sm" variant="subtle" loading={remove.isPending} onClick={() => remove.mutate(outlet.key)}>
              Delete
            </Button>
          )}
        </div>
      )}
    </section>
  );
}

function OutletForm({
  editing,
  taken,
  onDone,
}: {
  readonly editing: Editing;
  readonly taken: readonly string[];
  readonly onDone: () => void;
}) {
  const put = usePutOutlet();
  const [name, setName] = useState(editing.name);
  const [settings, setSettings] = useState(editing.settings);
  const [secret, setSecret] = useState('');
  const [key, setKey] = useState(editing.key ?? makeKey(editing.settings.kind, new Set(taken), 'outlet'));
  const set = (more: Partial<OutletSettings>): void => setSettings({ ...settings, ...more } as OutletSettings);
  const keep = (): void => put.mutate({ key, name, settings, ...(secret === '' ? {} : { secret }) }, { onSuccess: onDone });
  const { locale } = useSession().workspace;
  return (
    <form
      className={classes.form}
      aria-label={editing.key === null ? `A new ${KINDS[settings.kind].toLowerCase()}` : `Change ${editing.name}`}
      onSubmit={(event) => {
        event.preventDefault();
        keep();
      }}
    >
      <h2>{editing.key === null ? `New ${KINDS[settings.kind].toLowerCase()}` : editing.name}</h2>
      <div className={classes.fields}>
        <TextInput label="Name" value={name} required onChange={(event) => setName(event.currentTarget.value)} />
        <TextInput
          label="Key that designs name it by"
          value={key}
          disabled={editing.key !== null}
          classNames={{ input: 'mono' }}
          onChange={(event) => setKey(event.currentTarget.value)}
        />
        {settings.kind === 'mail' && (
          <>
            <TextInput
              label="Host"
              description="Empty: the mail server of the configuration"
              value={settings.host}
              onChange={(event) => set({ host: event.currentTarget.value })}
            />
            <CountInput
              label="Port"
              locale={locale}
              value={settings.port}
              min={1}
              max={65535}
              onKeep={(port) => {
                if (port === null) return 'Write a number.';
                set({ port });
                return null;
              }}
            />
            <Select
              label="Encryption"
              data={[
                { value: 'starttls', label: 'after the greeting (STARTTLS)' },
                { value: 'tls', label: 'from the start (TLS)' },
                { value: 'none', label: 'none' },
              ]}
              value={settings.encryption}
              allowDeselect={false}
              onChange={(encryption) => encryption && set({ encryption: encryption as 'tls' })}
            />
            <TextInput label="User" value={settings.user} onChange={(event) => set({ user: event.currentTarget.value })} />
            <TextInput
              label="Sender’s address"
              value={settings.from}
              onChange={(event) => set({ from: event.currentTarget.value })}
            />
            <TextInput
              label="Sender’s name"
              value={settings.fromName}
              onChange={(event) => set({ fromName: event.currentTarget.value })}
            />
          </>
        )}
        {settings.kind === 'web' && (
          <>
            <TextInput
              label="Address"
              value={settings.address}
              onChange={(event) => set({ address: event.currentTarget.value })}
            />
            <Select
              label="Shows who it is by"
              data={[
                { value: 'signature', label: 'a signature over the request (RFC 9421)' },
                { value: 'bearer', label: 'the secret as a bearer token' },
                { value: 'none', label: 'nothing' },
              ]}
              value={settings.authentication}
              allowDeselect={false}
              onChange={(authentication) => authentication && set({ authentication: authentication as 'none' })}
            />
            <CountInput
              label="Waits for an answer, in seconds"
              locale={locale}
              value={settings.timeoutSeconds}
              min={1}
              max={60}
              onKeep={(timeoutSeconds) => {
                if (timeoutSeconds === null) return 'Write a number.';
                set({ timeoutSeconds });
                return null;
              }}
            />
            <Switch
              label="Keeps the order of the hand-offs"
              description="One after another; one that is tried again holds up those after it"
              checked={settings.isOrdered === true}
              onChange={(event) => set({ isOrdered: event.currentTarget.checked })}
            />
          </>
        )}
        {settings.kind === 'file' && (
          <TextInput
            label="Folder"
            description="Within the server’s folder of registers"
            value={settings.folder}
            onChange={(event) => set({ folder: event.currentTarget.value })}
          />
        )}
        {settings.kind !== 'file' && (
          <PasswordInput
            label={settings.kind === 'mail' ? 'Password' : 'Secret'}
            description={
              editing.hasSecret
                ? 'There is one, and it is never shown. Write another to change it; with another host write it again, since it goes to the one it was given for.'
                : 'Kept encrypted, and never shown again.'
            }
            value={secret}
            autoComplete="new-password"
            onChange={(event) => setSecret(event.currentTarget.value)}
          />
        )}
      </div>
      {put.error && (
        <Notice tone="fault" title={put.error.message}>
          {problemText(put.error)}
        </Notice>
      )}
      <div className={classes.actions}>
        <Button type="submit" size="compact-md" loading={put.isPending}>
          Keep
        </Button>
        <Button size="compact-md" variant="default" onClick={onDone}>
          Leave it
        </Button>
      </div>
    </form>
  );
}

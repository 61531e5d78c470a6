import { Button, UnstyledButton } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { findPart, previewDelivery, type Workflow, within } from '@ypomet/core';
import { Link } from 'react-router';
import { useDraft } from '../drafts/draft-context.tsx';
import { ChoiceProperty, ChoicesProperty, SwitchProperty, TextProperty, useChange } from '../plan/panels/properties.tsx';
import { useRehearsal } from '../rehearsal/rehearsal-context.tsx';
import { TemplateField } from '../templates/TemplateField.tsx';
import { Arriving } from './Arriving.tsx';
import classes from './Consequences.module.css';
import { compiledDelivery, type Item } from './listing.ts';
import { AnswersProperty, HeadersProperty, PropertiesProperty } from './PairsProperty.tsx';
import { outletsQuery, useMailMe } from './queries.ts';
import { RecipientsProperty } from './RecipientsProperty.tsx';
import { WhenProperty } from './WhenProperty.tsx';

type Delivery = Workflow['handOffs'][number]['deliveries'][number];

/** Who is here: the analyst, saying what is sent, to whom, and what it says. */
export function DeliveryPanel({ item }: { readonly item: Item }) {
  const { definition } = useDraft();
  const change = useChange(item.path);
  const found = findPart(definition, item.path);
  if (found?.kind !== 'delivery') return <p>This delivery is gone.</p>;
  const delivery = found.part as unknown as Delivery;
  return (
    <>
      <TextProperty label="Name" value={delivery.name} onKeep={(name) => change({ name })} />
      <WhenProperty path={item.path} when={delivery.when} name={delivery.name} />
      <OutletProperty kind={delivery.kind} outlet={delivery.outlet} onKeep={(outlet) => change({ outlet })} />
      {delivery.kind === 'mail' ? (
        <MailProperties path={item.path} mail={delivery} />
      ) : delivery.kind === 'web' ? (
        <WebProperties path={item.path} request={delivery} />
      ) : (
        <FileProperties path={item.path} file={delivery} />
      )}
      <Preview item={item} />
    </>
  );
}

/** Where it goes, among the outlets of its kind. */
function OutletProperty({
  kind,
  outlet,
  onKeep,
}: {
  readonly kind: Delivery['kind'];
  readonly outlet: string;
  readonly onKeep: (outlet: string) => boolean;
}) {
  const outlets = useQuery(outletsQuery);
  const own = (outlets.data ?? []).filter(({ settings }) => settings.kind === kind);
  const isThere = own.some(({ key }) => key === outlet);
  if (kind === 'mail' && own.length <= 1 && isThere) return null;
  return (
    <div>
      <ChoiceProperty
        label="Outlet"
        value={isThere ? outlet : null}
        choices={own.map(({ key, name }) => ({ value: key, label: name }))}
        none={outlet === '' ? 'none yet' : `${outlet}, which isn’t there`}
        onKeep={(next) => next && onKeep(next)}
      />
      {own.length === 0 && (
        <p className={classes.soft}>
          There is none of this kind. <Link to="/outlets">Set one up</Link>.
        </p>
      )}
    </div>
  );
}

function MailProperties({ path, mail }: { readonly path: string; readonly mail: Extract<Delivery, { kind: 'mail' }> }) {
  const change = useChange(path);
  return (
    <>
      <RecipientsProperty label="To" list={within(path, 'to')} recipients={mail.to} isNeeded />
      <details
        className={classes.more}
        open={mail.cc.length + mail.bcc.length + mail.replyTo.length > 0 || mail.senderName !== ''}
      >
        <summary>Copies, sender, where answers go</summary>
        <RecipientsProperty label="Copies" list={within(path, 'cc')} recipients={mail.cc} />
        <RecipientsProperty label="Blind copies" list={within(path, 'bcc')} recipients={mail.bcc} />
        <RecipientsProperty label="Answers go to" list={within(path, 'replyTo')} recipients={mail.replyTo} />
        <TemplateField
          label="Name of the sender"
          text={mail.senderName}
          path={within(path, 'senderName')}
          isLine
          onKeep={(senderName) => change({ senderName })}
        />
      </details>
      <TemplateField
        label="Subject"
        text={mail.subject}
        path={within(path, 'subject')}
        isLine
        onKeep={(subject) => change({ subject })}
      />
      <TemplateField label="Text" text={mail.body} path={within(path, 'body')} onKeep={(body) => change({ body })} />
      <ChoiceProperty
        label="The record goes along"
        value={mail.attach}
        choices={[
          { value: 'nothing', label: 'not' },
          { value: 'pdf', label: 'as PDF' },
          { value: 'csv', label: 'as CSV' },
          { value: 'json', label: 'as JSON' },
        ]}
        onKeep={(attach) => attach && change({ attach })}
      />
      <SwitchProperty label="Its own files go along" value={mail.attachFiles} onKeep={(attachFiles) => change({ attachFiles })} />
    </>
  );
}

/** Whose readers an outlet counts as: what they may read it may be given. */
function ReadsAs({ path, readsAs }: { readonly path: string; readonly readsAs: readonly string[] }) {
  const { definition } = useDraft();
  const change = useChange(path);
  if (definition.fields.every(({ confidentialTo }) => confidentialTo.length === 0)) return null;
  return (
    <ChoicesProperty
      label="Confidential values: it counts as"
      value={readsAs}
      choices={definition.roles.map((role) => ({ value: role.key, label: role.name }))}
      none="nobody: they are left out"
      onKeep={(roles) => change({ readsAs: [...roles] })}
    />
  );
}

function WebProperties({ path, request }: { readonly path: string; readonly request: Extract<Delivery, { kind: 'web' }> }) {
  const change = useChange(path);
  return (
    <>
      <div className={classes.two}>
        <ChoiceProperty
          label="Method"
          value={request.method}
          choices={(['POST', 'PUT', 'PATCH', 'DELETE'] as const).map((method) => ({ value: method, label: method }))}
          onKeep={(method) => method && change({ method })}
        />
        <ChoiceProperty
          label="Written as"
          value={request.encoding}
          choices={[
            { value: 'json', label: 'JSON' },
            { value: 'form', label: 'a form' },
          ]}
          onKeep={(encoding) => encoding && change({ encoding })}
        />
      </div>
      <TemplateField
        label="Address, after the outlet’s own"
        text={request.address}
        path={within(path, 'address')}
        isLine
        onKeep={(address) => change({ address })}
      />
      <PropertiesProperty list={within(path, 'properties')} properties={request.properties} />
      <ReadsAs path={path} readsAs={request.readsAs} />
      <HeadersProperty list={within(path, 'headers')} headers={request.headers} />
      <TextProperty
        label="Good answers"
        note="Status codes and ranges"
        value={request.expects}
        isCode
        onKeep={(expects) => change({ expects })}
      />
      <AnswersProperty list={within(path, 'answers')} answers={request.answers} />
    </>
  );
}

function FileProperties({ path, file }: { readonly path: string; readonly file: Extract<Delivery, { kind: 'file' }> }) {
  const change = useChange(path);
  return (
    <>
      <div className={classes.two}>
        <ChoiceProperty
          label="Format"
          value={file.format}
          choices={[
            { value: 'pdf', label: 'PDF' },
            { value: 'json', label: 'JSON' },
            { value: 'csv', label: 'CSV, a row' },
          ]}
          onKeep={(format) => format && change({ format })}
        />
        <ChoiceProperty
          label="Where the name is taken"
          value={file.exists}
          choices={[
            { value: 'number', label: file.format === 'csv' ? 'the row is added' : 'it is numbered' },
            { value: 'replace', label: 'it is replaced' },
            { value: 'refuse', label: 'it waits for a person' },
          ]}
          onKeep={(exists) => exists && change({ exists })}
        />
      </div>
      <TemplateField
        label="File name"
        text={file.fileName}
        path={within(path, 'fileName')}
        isLine
        onKeep={(fileName) => change({ fileName })}
      />
      <TemplateField
        label="Folder within the outlet’s"
        text={file.folder}
        path={within(path, 'folder')}
        isLine
        onKeep={(folder) => change({ folder })}
      />
      {file.format === 'pdf' ? (
        <TemplateField label="The document" text={file.body} path={within(path, 'body')} onKeep={(body) => change({ body })} />
      ) : (
        <PropertiesProperty list={within(path, 'properties')} properties={file.properties} />
      )}
      <ReadsAs path={path} readsAs={file.readsAs} />
    </>
  );
}

/** The delivery as it would arrive, with the rehearsal's record as it is now. */
function Preview({ item }: { readonly item: Item }) {
  const { compiled } = useDraft();
  const { workflow, record, form, actor, outside, fill } = useRehearsal();
  const mailMe = useMailMe();
  const own = compiledDelivery(compiled, item);
  if (!own || workflow !== compiled) return null;
  const sent = previewDelivery(own, { workflow, record, form, actor, outside });
  const [first] = sent;
  const mail = first?.type === 'mail' ? first : null;
  return (
    <section aria-label="As it would arrive">
      <h3>As it would arrive</h3>
      <p className={classes.soft}>
        With the rehearsal’s record as it is now.{' '}
        <UnstyledButton className={classes.link} onClick={() => fill(1)}>
          Fill it with made-up answers
        </UnstyledButton>
      </p>
      {sent.length > 1 && (
        <p className={classes.soft}>
          It goes as {sent.length} mails: not all receivers may read the same, and each is told what they may read.
        </p>
      )}
      {sent.map((one) => (
        <Arriving
          key={JSON.stringify(one.type === 'mail' ? [one.to, one.cc, one.bcc] : one.name)}
          delivery={one}
          at={{ workflow, outside }}
        />
      ))}
      {mail && (
        <p>
          <Button
            size="compact-sm"
            variant="subtle"
            loading={mailMe.isPending}
            onClick={() => mailMe.mutate({ outlet: mail.outlet, subject: mail.subject, body: mail.body })}
          >
            {sent.length > 1 ? 'Send me the first as a test' : 'Send me a test'}
          </Button>
          {mailMe.data && (
            <span className={classes.soft} role="status">
              {mailMe.data.isWorking ? ' Sent.' : ` Not sent: ${mailMe.data.answer}`}
            </span>
          )}
          {mailMe.error && (
            <span className={classes.soft} role="alert">
              {' '}
              {mailMe.error.message}
            </span>
          )}
        </p>
      )}
    </section>
  );
}

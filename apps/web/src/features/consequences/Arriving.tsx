import {
  type Address,
  type CompiledWorkflow,
  type DeliveryConsequence,
  type Field,
  type FollowUpConsequence,
  findField,
  formatValue,
  type Json,
  type MailConsequence,
  type Outside,
  readFieldValue,
  type WebConsequence,
  type Written,
} from '@ypomet/core';
import { RichTextView } from '../../shared/RichTextView.tsx';
import classes from './Arriving.module.css';
import { layOutJson } from './lay-out-json.ts';

/** Where what arrives is looked up: the workflow that sends, and who there is. */
export type ArrivingAt = { readonly workflow: CompiledWorkflow; readonly outside: Outside };

/** Whom an address is, in words. */
export function sayAddress(address: Address, { workflow, outside }: ArrivingAt): string {
  if (address.kind === 'role')
    return `role ${workflow.definition.roles.find(({ key }) => key === address.role)?.name ?? address.role}`;
  return address.kind === 'member' ? (outside.findMember(address.member)?.name ?? address.member) : address.address;
}

const sayAll = (list: readonly Address[], at: ArrivingAt): string => list.map((one) => sayAddress(one, at)).join(', ');

/** What a delivery is and where it goes, in a line. */
export function sayDelivery(one: DeliveryConsequence, at: ArrivingAt): string {
  switch (one.type) {
    case 'mail':
      return `to ${sayAll([...one.to, ...one.cc, ...one.bcc], at) || 'nobody'}: ${one.subject}`;
    case 'web':
      return `${one.method} ${one.address} to ${one.outlet}`;
    case 'file':
      return `${placeOf(one)} in ${one.outlet}`;
    default:
      return one satisfies never;
  }
}

const placeOf = ({ folder, fileName, written }: Extract<DeliveryConsequence, { type: 'file' }>): string => {
  const extension = `.${written.format}`;
  const name = fileName.toLowerCase().endsWith(extension) ? fileName : `${fileName}${extension}`;
  return folder === '' ? name : `${folder}/${name}`;
};

/** A delivery as it would arrive. */
export function Arriving({ delivery, at }: { readonly delivery: DeliveryConsequence; readonly at: ArrivingAt }) {
  switch (delivery.type) {
    case 'mail':
      return <ArrivingMail mail={delivery} at={at} />;
    case 'web':
      return <ArrivingRequest request={delivery} />;
    case 'file':
      return (
        <div className={classes.sheet}>
          <p className={`${classes.place} mono`}>{placeOf(delivery)}</p>
          <Contents written={delivery.written} />
        </div>
      );
    default:
      return delivery satisfies never;
  }
}

function ArrivingMail({ mail, at }: { readonly mail: MailConsequence; readonly at: ArrivingAt }) {
  const heads = [
    ['To', sayAll(mail.to, at) || 'nobody'],
    ['Copies', sayAll(mail.cc, at)],
    ['Blind copies', sayAll(mail.bcc, at)],
    ['Answers to', sayAll(mail.replyTo, at)],
    ['From', mail.senderName],
    [
      'Attached',
      [mail.attached ? `the record as ${mail.attached.format.toUpperCase()}` : '', ...mail.files.map(({ name }) => name)]
        .filter(Boolean)
        .join(', '),
    ],
  ] as const;
  return (
    <div className={classes.sheet}>
      <dl className={classes.heads}>
        {heads.map(([name, value]) =>
          value === '' ? null : (
            <div key={name}>
              <dt>{name}</dt>
              <dd>{value}</dd>
            </div>
          ),
        )}
      </dl>
      {mail.unfit.length > 0 && (
        <p className={classes.gap}>Recipient {mail.unfit.join(', ')} has no e-mail address: a person would have to look.</p>
      )}
      <p className={classes.subject}>{mail.subject || 'without a subject'}</p>
      <RichTextView text={mail.body} />
    </div>
  );
}

function ArrivingRequest({ request }: { readonly request: WebConsequence }) {
  return (
    <div className={classes.sheet}>
      <p className={`${classes.place} mono`}>
        {request.method} {request.address || '/'}
      </p>
      {request.headers.map(([name, value]) => (
        <p key={name} className={`${classes.header} mono`}>
          {name}: {value}
        </p>
      ))}
      <pre className={`${classes.body} mono`}>
        {request.mediaType === 'application/json' ? layOutJson(request.body) : request.body.replaceAll('&', '\n&')}
      </pre>
      {request.answers.length > 0 && (
        <p className={classes.soft}>
          From its answer {request.answers.map(({ name, field }) => `“${name}” goes into ${field}`).join(', ')}.
        </p>
      )}
    </div>
  );
}

function Contents({ written }: { readonly written: Written }) {
  switch (written.format) {
    case 'pdf':
      return <RichTextView text={written.text} />;
    case 'csv':
      return <RichTextView text={[{ kind: 'table', head: written.head, rows: [written.row] }]} />;
    case 'json':
      return <pre className={`${classes.body} mono`}>{layOutJson(written.text)}</pre>;
    default:
      return written satisfies never;
  }
}

/** The values that a follow-up begins with, as the fields of its own workflow write them. */
export function Carried({ opened, at }: { readonly opened: FollowUpConsequence; readonly at: ArrivingAt }) {
  const { workflow, outside } = at;
  const target = workflow.findWorkflow(opened.workflow);
  const style = { ...outside, nameOf: (id: string) => outside.findMember(id)?.name ?? outside.findRecordNumber(id) };
  const say = (field: Field | null, json: Json): string => {
    const read = field && readFieldValue(field, json, outside);
    // What the target can't hold goes along as it is.
    return read?.ok ? formatValue(read.value, field, style) : typeof json === 'string' ? json : JSON.stringify(json);
  };
  return (
    <ul className={classes.carried}>
      {Object.entries(opened.values).map(([key, json]) => {
        const field = target && findField(target, key);
        return (
          <li key={key}>
            {field?.name ?? key}: {say(field, json) || 'nothing'}
          </li>
        );
      })}
    </ul>
  );
}

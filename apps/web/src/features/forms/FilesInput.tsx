import { ActionIcon, Button, FileButton, Progress, UnstyledButton } from '@mantine/core';
import { IconX } from '@tabler/icons-react';
import type { Field, Json, SubField } from '@ypomet/core';
import { useEffect, useRef, useState } from 'react';
import { chooseFiles, describeKinds } from './choose-files.ts';
import { FilePreview } from './FilePreview.tsx';
import classes from './FilesInput.module.css';
import { type FileJson, toFiles } from './file-json.ts';
import { formatSize } from './file-size.ts';
import { useFormWorld } from './form-world.tsx';
import { canBeShown } from './preview.ts';
import { addressOfFile, isGuest, saveFile } from './queries.ts';
import { type Sending, useUploads } from './use-uploads.ts';

type FileField = Extract<Field | SubField, { type: 'file' }>;

type Props = {
  readonly id: string;
  readonly field: FileField;
  readonly value: Json;
  readonly label: string;
  readonly describedBy?: string;
  readonly onEnter: (value: Json) => void;
};

/** Files that are handed over as soon as they are chosen; what the field then names is what the server took in. */
export function FilesInput({ id, field, value, label, describedBy, onEnter }: Props) {
  const { handOver, noteSending } = useFormWorld();
  const files = toFiles(value);
  const latest = useRef(files);
  latest.current = files;
  const [refused, setRefused] = useState<readonly string[]>([]);
  const { list, add, again, letGo } = useUploads(handOver, (entry) => {
    const others = latest.current.filter(({ sha256, name }) => sha256 !== entry.sha256 || name !== entry.name);
    latest.current = [...others, entry];
    onEnter(latest.current as unknown as Json);
  });
  const failed = list.filter(({ status }) => status === 'failed').length;
  const underWay = list.length - failed;
  useEffect(() => {
    noteSending?.(id, { underWay, failed });
    return () => noteSending?.(id, { underWay: 0, failed: 0 });
  }, [noteSending, id, underWay, failed]);
  const choose = (chosen: readonly File[]): void => {
    if (chosen.length === 0) return;
    const choice = chooseFiles(field, chosen, files.length + list.length);
    setRefused(choice.refused);
    add(choice.files);
  };
  const isFull = files.length + list.length >= field.maxCount;
  return (
    <div
      className={classes.files}
      id={id}
      role="group"
      aria-label={label}
      {...(describedBy ? { 'aria-describedby': describedBy } : {})}
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault();
        choose([...event.dataTransfer.files]);
      }}
    >
      <FileList
        files={files}
        onRemove={(gone) => onEnter(files.length === 1 ? null : (files.filter((file) => file !== gone) as unknown as Json))}
      />
      <SendingList list={list} onAgain={again} onLetGo={letGo} />
      <FileButton multiple {...(field.kinds.length > 0 ? { accept: field.kinds.join(',') } : {})} onChange={choose}>
        {(props) => (
          <Button {...props} variant="default" size="xs" disabled={isFull}>
            {files.length === 0 ? 'Choose a file' : 'Choose another file'}
          </Button>
        )}
      </FileButton>
      <span className={classes.soft}>
        {isFull
          ? 'No more files fit here.'
          : `Up to ${field.maxCount === 1 ? 'one file' : `${field.maxCount} files`} of ${formatSize(field.maxBytes)}${field.kinds.length > 0 ? `: ${describeKinds(field.kinds)}` : ''}, or dropped here.`}
      </span>
      {refused.length > 0 && <Refused refused={refused} />}
    </div>
  );
}

/** Refusals told one by one; the others of very many are counted. */
const MOST_TOLD = 3;

function Refused({ refused }: { readonly refused: readonly string[] }) {
  const last = refused.at(-1) ?? '';
  const told =
    refused.length > MOST_TOLD + 1
      ? [...refused.slice(0, MOST_TOLD), `And ${refused.length - MOST_TOLD - 1} more.`, last]
      : refused;
  return (
    <div role="alert" className={classes.fault}>
      {told.map((why) => (
        <p key={why}>{why}</p>
      ))}
    </div>
  );
}

/** Files on their way, each with how far it is and the way to let it go. */
function SendingList({
  list,
  onAgain,
  onLetGo,
}: {
  readonly list: readonly Sending[];
  readonly onAgain: (id: number) => void;
  readonly onLetGo: (id: number) => void;
}) {
  if (list.length === 0) return null;
  return (
    <ul className={classes.list} aria-label="On their way">
      {list.map(({ id, file, sentBytes, status, why, isFinal }) => {
        const part = Math.floor((100 * sentBytes) / Math.max(1, file.size));
        return (
          <li key={id} className={classes.sending} data-status={status}>
            <span>{file.name}</span>
            {status === 'failed' ? (
              <span role="alert" className={classes.why}>
                {why}{' '}
                {!isFinal && (
                  <Button variant="subtle" size="compact-xs" onClick={() => onAgain(id)}>
                    Try again
                  </Button>
                )}
              </span>
            ) : (
              <>
                <Progress value={part} size="sm" className={classes.bar ?? ''} aria-label={`${file.name}, sent`} />
                <span className={classes.soft}>
                  {status === 'waiting' ? 'waits' : `${formatSize(sentBytes)} of ${formatSize(file.size)}`}
                </span>
              </>
            )}
            <ActionIcon
              variant="subtle"
              color="gray"
              size="sm"
              aria-label={`Don’t send ${file.name}`}
              onClick={() => onLetGo(id)}
            >
              <IconX size={14} />
            </ActionIcon>
          </li>
        );
      })}
    </ul>
  );
}

/** Files by name and size, each to be saved where that is possible, and looked into where it can be shown. */
export function FileList({
  files,
  onRemove,
}: {
  readonly files: readonly FileJson[];
  readonly onRemove?: (file: FileJson) => void;
}) {
  const { filesOf } = useFormWorld();
  const [open, setOpen] = useState<FileJson | null>(null);
  if (files.length === 0) return null;
  return (
    <ul className={classes.list}>
      {files.map((file) => (
        <li key={`${file.sha256}/${file.name}`}>
          <FileName file={file} record={filesOf} /> <span className={classes.soft}>{formatSize(file.bytes)}</span>
          {filesOf !== null && canBeShown(file) && (
            <UnstyledButton className={classes.look} onClick={() => setOpen(file)} aria-label={`Look at ${file.name}`}>
              Look
            </UnstyledButton>
          )}
          {onRemove && (
            <ActionIcon variant="subtle" color="gray" size="sm" aria-label={`Remove ${file.name}`} onClick={() => onRemove(file)}>
              <IconX size={14} />
            </ActionIcon>
          )}
        </li>
      ))}
      {open && <FilePreview file={open} onClose={() => setOpen(null)} />}
    </ul>
  );
}

function FileName({ file, record }: { readonly file: FileJson; readonly record: string | null }) {
  if (record === null) return <span>{file.name}</span>;
  // A guest's pass isn't sent where a browser follows a link.
  if (isGuest()) {
    return (
      <UnstyledButton className={classes.save} onClick={() => void saveFile(record, file)}>
        {file.name}
      </UnstyledButton>
    );
  }
  return (
    <a href={addressOfFile(record, file.sha256)} download={file.name}>
      {file.name}
    </a>
  );
}

import { ActionIcon, Button, FileButton } from '@mantine/core';
import { IconX } from '@tabler/icons-react';
import { useMutation } from '@tanstack/react-query';
import { type Field, isOfKind, type Json, type SubField } from '@ypomet/core';
import classes from './FilesInput.module.css';
import { useFormWorld } from './form-world.tsx';

type FileField = Extract<Field | SubField, { type: 'file' }>;
export type FileJson = { readonly name: string; readonly mediaType: string; readonly bytes: number; readonly sha256: string };

export const toFiles = (value: Json): readonly FileJson[] =>
  Array.isArray(value) ? (value as unknown as readonly FileJson[]) : [];

const UNITS = ['bytes', 'kB', 'MB', 'GB'];
/** A size as people read it: 1.2 MB. */
export function formatSize(bytes: number): string {
  const unit = Math.min(UNITS.length - 1, Math.floor(Math.log10(Math.max(1, bytes)) / 3));
  const size = bytes / 1000 ** unit;
  return `${unit === 0 ? size : size.toFixed(1)} ${UNITS[unit]}`;
}

type Props = {
  readonly id: string;
  readonly field: FileField;
  readonly value: Json;
  readonly label: string;
  readonly describedBy?: string;
  readonly onEnter: (value: Json) => void;
};

/** Files handed over one by one; what the field then names is what the server took in. */
export function FilesInput({ id, field, value, label, describedBy, onEnter }: Props) {
  const { handOver } = useFormWorld();
  const files = toFiles(value);
  const handing = useMutation({
    mutationFn: async (chosen: readonly File[]) => {
      const tooLarge = chosen.find((file) => file.size > field.maxBytes);
      if (tooLarge) throw new Error(field.messages.size ?? `“${tooLarge.name}” is larger than ${formatSize(field.maxBytes)}.`);
      const strange = chosen.find(({ name, type }) => !isOfKind(field.kinds, { name, mediaType: type }));
      if (strange) throw new Error(field.messages.kinds ?? `“${strange.name}” is none of ${field.kinds.join(', ')}.`);
      const taken: FileJson[] = [];
      for (const file of chosen) taken.push(await handOver(file));
      return taken;
    },
    onSuccess: (taken) => {
      const kept = files.filter((file) => !taken.some((one) => one.sha256 === file.sha256 && one.name === file.name));
      onEnter([...kept, ...taken] as unknown as Json);
    },
  });
  const isFull = files.length >= field.maxCount;
  return (
    <div
      className={classes.files}
      id={id}
      role="group"
      aria-label={label}
      {...(describedBy ? { 'aria-describedby': describedBy } : {})}
    >
      <FileList
        files={files}
        onRemove={(gone) => onEnter(files.length === 1 ? null : (files.filter((file) => file !== gone) as unknown as Json))}
      />
      <FileButton
        multiple
        {...(field.kinds.length > 0 ? { accept: field.kinds.join(',') } : {})}
        onChange={(chosen) => chosen.length > 0 && handing.mutate(chosen)}
      >
        {(props) => (
          <Button {...props} variant="default" size="xs" loading={handing.isPending} disabled={isFull}>
            {files.length === 0 ? 'Choose a file' : 'Choose another file'}
          </Button>
        )}
      </FileButton>
      <span className={classes.soft}>
        {isFull
          ? 'No more files fit here.'
          : `Up to ${field.maxCount === 1 ? 'one file' : `${field.maxCount} files`} of ${formatSize(field.maxBytes)}${field.kinds.length > 0 ? `: ${field.kinds.join(', ')}` : ''}.`}
      </span>
      {handing.isError && (
        <p role="alert" className={classes.fault}>
          {handing.error.message} Nothing of it was taken; choose it again to try once more.
        </p>
      )}
    </div>
  );
}

/** Files by name and size, each to be saved where that is possible. */
export function FileList({
  files,
  onRemove,
}: {
  readonly files: readonly FileJson[];
  readonly onRemove?: (file: FileJson) => void;
}) {
  const { addressOf } = useFormWorld();
  if (files.length === 0) return null;
  return (
    <ul className={classes.list}>
      {files.map((file) => {
        const address = addressOf(file.sha256);
        return (
          <li key={`${file.sha256}/${file.name}`}>
            {address ? (
              <a href={address} download={file.name}>
                {file.name}
              </a>
            ) : (
              <span>{file.name}</span>
            )}{' '}
            <span className={classes.soft}>{formatSize(file.bytes)}</span>
            {onRemove && (
              <ActionIcon
                variant="subtle"
                color="gray"
                size="sm"
                aria-label={`Remove ${file.name}`}
                onClick={() => onRemove(file)}
              >
                <IconX size={14} />
              </ActionIcon>
            )}
          </li>
        );
      })}
    </ul>
  );
}

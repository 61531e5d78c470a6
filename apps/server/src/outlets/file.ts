import { type FileHandle, link, mkdir, open, readFile, rename, rm, stat, writeFile } from 'node:fs/promises';
import path from 'node:path';
import type { Written } from '@ypomet/core';
import { notSent, type Outlet, type OutletSetup, type Sending } from './outlet.ts';
import { type Render, writeCsv } from './written.ts';

const MAX_NAME_BYTES = 200;
const MAX_NUMBER = 999;
/** What was written for which delivery, so that a repeat writes nothing twice. */
const WRITTEN = '.written';
/** Names that a Windows share takes for devices, from memory. */
const RESERVED = /^(con|prn|aux|nul|com\d|lpt\d)$/i;

export type FileMeans = {
  /** The folder in which the folders of outlets are. */
  readonly root: string;
  readonly render: Render;
  /** Does something while nobody else, in no other process, does anything under the same name. */
  readonly alone: <T>(name: string, work: () => Promise<T>) => Promise<T>;
};

/** Writes files into folders: whole or not at all, and once for a delivery, however often it is tried. */
export function makeFileOutlet(means: FileMeans): Outlet<'file'> {
  return {
    kind: 'file',
    send: async (setup, sending) => {
      const { content } = sending;
      const place = placeOf(means.root, setup, content);
      await mkdir(path.dirname(place), { recursive: true });
      await mkdir(path.join(homeOf(means.root, setup), WRITTEN), { recursive: true });
      const written =
        content.written.format === 'csv'
          ? await appendRow(means, setup, sending, content.written, place)
          : await writeWhole(means, setup, sending, place);
      return { answer: path.relative(homeOf(means.root, setup), written) };
    },
    try: async (setup) => {
      const home = homeOf(means.root, setup);
      await mkdir(home, { recursive: true });
      const probe = path.join(home, `.trial-${process.pid}`);
      await writeFile(probe, '');
      await rm(probe);
      return `Files can be written to ${setup.settings.folder}.`;
    },
    close: async () => undefined,
  };
}

const homeOf = (root: string, { settings }: Pick<OutletSetup<'file'>, 'settings'>): string => path.join(root, settings.folder);

/** A part of a path as every file system takes it; null where nothing is left of it. */
export function safeName(name: string): string | null {
  let safe = name
    .normalize('NFC')
    // biome-ignore lint/suspicious/noControlCharactersInRegex: these are what must go
    .replace(/[\u0000-\u001f\u007f<>:"/\\|?*]+/g, '-')
    .replace(/^[.\s-]+|[.\s]+$/g, '');
  while (Buffer.byteLength(safe) > MAX_NAME_BYTES) safe = safe.slice(0, -1);
  if (safe === '') return null;
  return RESERVED.test(safe.split('.')[0] ?? '') ? `_${safe}` : safe;
}

function placeOf(root: string, setup: OutletSetup<'file'>, { folder, fileName, written }: Sending<'file'>['content']): string {
  const bad = (name: string): Error => notSent('bad-name', { name: name.slice(0, 200) }, { isFinal: true });
  const folders = folder
    .split('/')
    .filter((part) => part.trim() !== '')
    .map((part) => {
      const safe = safeName(part);
      if (safe === null) throw bad(part);
      return safe;
    });
  const extension = `.${written.format}`;
  const base = fileName.toLowerCase().endsWith(extension) ? fileName.slice(0, -extension.length) : fileName;
  const safe = safeName(base);
  if (safe === null || folders.length > 20) throw bad(fileName);
  return path.join(homeOf(root, setup), ...folders, `${safe}${extension}`);
}

const isThere = (place: string): Promise<boolean> =>
  stat(place).then(
    () => true,
    (error: NodeJS.ErrnoException) => {
      if (error.code === 'ENOENT') return false;
      throw error;
    },
  );

/** A name that isn't taken: `loan-2.pdf`. */
const numbered = (place: string, number: number): string => {
  const { dir, name, ext } = path.parse(place);
  return number === 1 ? place : path.join(dir, `${name}-${number}${ext}`);
};

async function writeDurably(place: string, content: Buffer): Promise<void> {
  const file = await open(place, 'w');
  try {
    await file.writeFile(content);
    await file.sync();
  } finally {
    await file.close();
  }
}

/** A note is written aside and then renamed: whoever reads it finds all of it, or the one before, whenever the process ends. */
async function writeNote(place: string, text: string): Promise<void> {
  await writeDurably(`${place}.part`, Buffer.from(text));
  await rename(`${place}.part`, place);
}

/** A note; null where there is none. */
const readNote = (place: string): Promise<string | null> =>
  readFile(place, 'utf8').catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'ENOENT') return null;
    throw error;
  });

/** Where a row was to be written; null where the note was cut off before that was said, so that nothing was written either. */
function readRowPlace(note: string | null): RowPlace | null {
  if (note === null) return null;
  try {
    return JSON.parse(note) as RowPlace;
  } catch (error) {
    if (error instanceof SyntaxError) return null;
    throw error;
  }
}

/**
 * The file is written aside, under the delivery's key, and then gets its name as a second one (a hard link): one that has
 * two names already was written by an attempt whose end nobody saw.
 */
async function writeWhole(
  { root, render, alone }: FileMeans,
  setup: OutletSetup<'file'>,
  { id, content }: Sending<'file'>,
  place: string,
): Promise<string> {
  const aside = path.join(homeOf(root, setup), WRITTEN, id);
  const noted = `${aside}.name`;
  return alone(place, async () => {
    const earlier = await readNote(noted);
    if (earlier !== null && (await isSameFile(earlier, aside))) return earlier;
    if (!(await isThere(aside))) {
      await writeDurably(`${aside}.part`, await render(content.written));
      await rename(`${aside}.part`, aside);
    }
    if (content.exists === 'replace') {
      await writeNote(noted, place);
      await rm(`${place}.${id}`, { force: true });
      await link(aside, `${place}.${id}`);
      await rename(`${place}.${id}`, place);
      return place;
    }
    for (let number = 1; number <= MAX_NUMBER; number++) {
      const name = numbered(place, number);
      await writeNote(noted, name);
      try {
        await link(aside, name);
        return name;
      } catch (error) {
        if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
        if (content.exists === 'refuse') break;
      }
    }
    throw notSent('file-there', { name: path.basename(place) }, { isFinal: true });
  });
}

async function isSameFile(a: string, b: string): Promise<boolean> {
  const [one, other] = await Promise.all([a, b].map((place) => stat(place).catch(() => null)));
  return one !== null && other !== null && one?.ino === other?.ino && one?.dev === other?.dev;
}

/**
 * Before a row is added it is noted where the file ended; a repeat finds its row there, whole, or puts it there again. A file
 * with other columns is left alone, and the next number begins.
 */
async function appendRow(
  { root, alone }: FileMeans,
  setup: OutletSetup<'file'>,
  { id }: Sending<'file'>,
  written: Extract<Written, { format: 'csv' }>,
  place: string,
): Promise<string> {
  const note = path.join(homeOf(root, setup), WRITTEN, `${id}.row`);
  const head = writeCsv([written.head]);
  const row = Buffer.from(writeCsv([written.row]));
  return alone(place, async () => {
    const earlier = readRowPlace(await readNote(note));
    const found = earlier && (await findRow(earlier, head, row));
    if (found === 'there') return (earlier as RowPlace).name;
    const { name, from } = found === 'free' ? (earlier as RowPlace) : await endOf(place, head);
    if (found !== 'free') await writeNote(note, JSON.stringify({ name, from }));
    const file = await openForWriting(name);
    try {
      const lines = linesAt(from, head, row);
      await file.write(lines, 0, lines.length, from);
      await file.sync();
    } finally {
      await file.close();
    }
    return name;
  });
}

type RowPlace = { readonly name: string; readonly from: number };

/** A file begins with its columns. */
const linesAt = (from: number, head: string, row: Buffer): Buffer => (from === 0 ? Buffer.concat([Buffer.from(head), row]) : row);

const openForWriting = (name: string): Promise<FileHandle> =>
  open(name, 'r+').catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'ENOENT') return open(name, 'w+');
    throw error;
  });

/** Whether a row stands where it was to be written; or nothing does, or the beginning of it; or something else. */
async function findRow({ name, from }: RowPlace, head: string, row: Buffer): Promise<'there' | 'free' | 'taken'> {
  if (!(await isThere(name))) return 'free';
  const lines = linesAt(from, head, row);
  const file = await open(name, 'r');
  try {
    const there = Buffer.alloc(lines.length);
    const { bytesRead } = await file.read(there, 0, lines.length, from);
    const isLast = bytesRead < lines.length;
    if (!there.subarray(0, bytesRead).equals(lines.subarray(0, bytesRead))) return 'taken';
    return isLast ? 'free' : 'there';
  } finally {
    await file.close();
  }
}

/** The file that rows with these columns are added to, and where it ends. */
async function endOf(place: string, head: string): Promise<RowPlace> {
  for (let number = 1; number <= MAX_NUMBER; number++) {
    const name = numbered(place, number);
    if (!(await isThere(name))) return { name, from: 0 };
    const { size } = await stat(name);
    if (size === 0 || (await beginsWith(name, head))) return { name, from: size };
  }
  throw notSent('file-there', { name: path.basename(place) }, { isFinal: true });
}

async function beginsWith(name: string, head: string): Promise<boolean> {
  const file = await open(name, 'r');
  try {
    const wanted = Buffer.from(head);
    const there = Buffer.alloc(wanted.length);
    await file.read(there, 0, wanted.length, 0);
    return there.equals(wanted);
  } finally {
    await file.close();
  }
}

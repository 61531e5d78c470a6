import { type AcceptedWarning, MAX_PUBLISHED_ALONG, type Publication } from '@ypomet/contract';
import { type Diagnostic, diagnostic, type Openings, openingsOf, term } from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import { inTransaction } from '../../db/database.ts';
import { ProblemError, toDetails } from '../../problem.ts';
import { listKinds } from '../outlets/repository.ts';
import {
  type DraftRow,
  findDraft,
  findMemberIds,
  findNewest,
  insertVersions,
  listOpeningParts,
  type NewestVersion,
} from './repository.ts';

/** A draft that is to be published: the revision that was looked at, and the warnings that were accepted. */
export type ToPublish = {
  readonly key: string;
  readonly revision: number;
  readonly accepted: readonly AcceptedWarning[];
};

/** Workflows that are published together at most. */
const MAX_TOGETHER = MAX_PUBLISHED_ALONG + 1;

type Member = DraftRow & { readonly refersTo: readonly string[]; readonly openings: Openings };
type Checked = Member & {
  readonly faults: readonly Diagnostic[];
  readonly warnings: readonly Diagnostic[];
  readonly newest: readonly NewestVersion[];
};

/**
 * Drafts that are published together: each is checked beside the drafts of the others, and all become versions in one
 * transaction or none does. Workflows that refer to each other have no other beginning.
 */
export class PublicationService {
  constructor(private readonly context: ServerContext) {}

  private get pool() {
    return this.context.database.pool;
  }

  /**
   * Says what publishing a draft would take: the drafts that it refers to, however far, and that were never published, and
   * those in `along`; with what is wrong with each.
   */
  async check(key: string, along: readonly string[]): Promise<Publication> {
    const first = await findDraft(this.pool, key);
    if (!first) throw new ProblemError('thing/not-found');
    const members = await this.collect(first, along);
    const checked = await this.checkAll(members);
    const referred = [...new Set(members.flatMap(({ refersTo }) => refersTo))];
    const others = await Promise.all(
      referred.filter((one) => !members.some((own) => own.key === one)).map((one) => findDraft(this.pool, one)),
    );
    const name = (row: DraftRow): string => String((JSON.parse(row.definition) as { readonly name: unknown }).name);
    return {
      workflows: checked.map((one) => ({
        key: one.key,
        name: one.openings.name,
        revision: one.revision,
        number: (one.publishedVersion ?? 0) + 1,
        faults: [...toDetails(one.faults)],
        warnings: [...toDetails(one.warnings)],
      })),
      others: others.flatMap((one) =>
        one && one.publishedRevision !== one.revision
          ? [{ key: one.key, name: name(one), revision: one.revision, number: (one.publishedVersion ?? 0) + 1 }]
          : [],
      ),
    };
  }

  /**
   * Publishes drafts together: the number of each version, by workflow. Faults stand in the way, and warnings that nobody
   * accepted. The same revision is published once. Codes: `request/invalid` (a workflow that is named twice), `thing/not-found`, `revision/stale`, `workflow/invalid`,
   * `workflow/warnings`; what is wrong with another than the first draft is told after that workflow's name.
   */
  async publish(list: readonly ToPublish[], notes: string, by: string): Promise<ReadonlyMap<string, number>> {
    if (new Set(list.map(({ key }) => key)).size < list.length) throw new ProblemError('request/invalid', { path: 'together' });
    const members: Member[] = [];
    for (const { key, revision } of list) members.push(await this.member(key, revision));
    const checked = await this.checkAll(members);
    this.refuse('workflow/invalid', checked, ({ faults }) => faults);
    const acceptedFor = (key: string) => list.find((one) => one.key === key)?.accepted ?? [];
    const isAccepted = (key: string, { code, path }: Diagnostic): boolean =>
      acceptedFor(key).some((one) => one.code === code && one.path === path);
    this.refuse('workflow/warnings', checked, ({ key, warnings }) => warnings.filter((one) => !isAccepted(key, one)));
    const numbers = await inTransaction(this.pool, (client) =>
      insertVersions(
        client,
        checked.map(({ key, revision, refersTo, newest, warnings }) => ({
          key,
          revision,
          // The versions of the others that are published along come to be known within the transaction.
          refersTo: Object.fromEntries(newest.map((one) => [one.key, one.number])),
          along: refersTo.filter((one) => one !== key && members.some((own) => own.key === one)),
          accepted: acceptedFor(key).filter((one) => warnings.some(({ code, path }) => one.code === code && one.path === path)),
          notes,
          by,
        })),
      ),
    );
    if (!numbers) throw new ProblemError('revision/stale');
    return numbers;
  }

  private refuse(
    code: 'workflow/invalid' | 'workflow/warnings',
    checked: readonly Checked[],
    of: (one: Checked) => readonly Diagnostic[],
  ): void {
    const details = checked.flatMap((one, index) =>
      toDetails(of(one)).map((detail) =>
        index === 0
          ? detail
          : { ...detail, message: `${one.openings.name}: ${detail.message}`, path: `${one.key}: ${detail.path}` },
      ),
    );
    if (details.length > 0) throw new ProblemError(code, { details });
  }

  private async member(key: string, revision: number): Promise<Member> {
    const row = await findDraft(this.pool, key);
    if (!row) throw new ProblemError('thing/not-found', { path: key });
    if (row.revision !== revision) throw new ProblemError('revision/stale', { path: `revision ${row.revision}` });
    return this.read(row);
  }

  private async read(row: DraftRow): Promise<Member> {
    const { keys, openings } = await this.context.definitions.run('refersTo', row.definition);
    return { ...row, refersTo: keys, openings };
  }

  /** The draft, those that are asked for along with it, and all that any of them refers to and that was never published. */
  private async collect(first: DraftRow, along: readonly string[]): Promise<readonly Member[]> {
    const members: Member[] = [];
    const waiting: DraftRow[] = [first];
    const isKnown = (key: string): boolean => [...members, ...waiting].some((one) => one.key === key);
    for (let row = waiting.shift(); row && members.length < MAX_TOGETHER; row = waiting.shift()) {
      const member = await this.read(row);
      members.push(member);
      for (const key of row === first ? [...member.refersTo, ...along] : member.refersTo) {
        const other = isKnown(key) ? null : await findDraft(this.pool, key);
        if (other && (other.publishedVersion === null || along.includes(key))) waiting.push(other);
      }
    }
    return members;
  }

  /** Checks each draft beside the others, and beside the newest versions of whatever else it refers to. */
  private async checkAll(members: readonly Member[]): Promise<readonly Checked[]> {
    const [outlets, published] = await Promise.all([listKinds(this.pool), listOpeningParts(this.pool)]);
    const drafts = new Map(members.map((one) => [one.key, one]));
    const openings = [...published.map(openingsOf).filter(({ key }) => !drafts.has(key)), ...members.map((one) => one.openings)];
    const { nextPages } = this.context.workspace;
    // One after another: a publication takes no more of the definition pool than one workflow does.
    const checked: Checked[] = [];
    for (const member of members) {
      const newest = await findNewest(
        this.pool,
        member.refersTo.filter((one) => !drafts.has(one)),
      );
      const neighbours = Object.fromEntries([
        ...newest.map((one) => [one.key, one.definition] as const),
        ...member.refersTo.flatMap((one) => {
          const draft = one === member.key ? undefined : drafts.get(one);
          return draft ? [[one, draft.definition] as const] : [];
        }),
      ]);
      const surroundings = { outlets: [...outlets], nextPages, openings };
      const found = await this.context.definitions.run('check', member.definition, neighbours, surroundings);
      const faults = [...found.faults, ...found.strangers, ...(await this.unknownMembers(found.members))];
      checked.push({ ...member, faults, warnings: found.warnings, newest });
    }
    return checked;
  }

  /** Assignments to members who don't exist. */
  private async unknownMembers(named: readonly { readonly id: string; readonly path: string }[]): Promise<readonly Diagnostic[]> {
    const known = await findMemberIds(
      this.pool,
      named.map(({ id }) => id),
    );
    return named
      .filter(({ id }) => !known.has(id))
      .map(({ id, path }) => diagnostic('workflow/unknown-key', path, { key: id, what: term('part/member') }));
  }
}

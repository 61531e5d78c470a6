import { randomBytes } from 'node:crypto';
import { type ProblemDetail, type PublicLinkEntry, type PublicLinkSettings, SERVER_EN } from '@ypomet/contract';
import { type CompiledWorkflow, canBeEntered, checkAcknowledgement, mayBegin, type Stage } from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import { ProblemError, toDetails } from '../../problem.ts';
import { findPublished } from '../workflows/repository.ts';
import { findLinkAt, findLinksOf, type LinkRow, putLink, renewLink } from './repository.ts';

/** 128 random bits: nobody finds a link by trying. */
const newAddress = (): string => randomBytes(16).toString('base64url');

/** Somebody without roles. */
const ANYBODY = { id: '', name: '', email: null, roles: [] };

export type LinkState = NonNullable<PublicLinkEntry['link']>['state'];

/** Whether records can be begun by a link at an instant, and why not. */
export function stateOf({ settings, begun }: Pick<LinkRow, 'settings' | 'begun'>, now: number): LinkState {
  if (!settings.isOpen) return 'off';
  if (settings.opensAt !== null && now < Date.parse(settings.opensAt)) return 'not-yet';
  if (settings.closesAt !== null && now >= Date.parse(settings.closesAt)) return 'over';
  return settings.maxRecords !== null && begun >= settings.maxRecords ? 'full' : 'open';
}

/** The sites that may show a link's form within their pages; none of a link that isn't there or is off. */
export async function framesOf({ database }: Pick<ServerContext, 'database'>, address: string): Promise<readonly string[]> {
  const link = await findLinkAt(database.pool, address);
  return link?.settings.isOpen ? link.settings.frames : [];
}

/** Public links as analysts set them up. */
export class PublicLinks {
  constructor(private readonly context: ServerContext) {}

  private get pool() {
    return this.context.database.pool;
  }

  /** The intakes of the published version, with their links; none where nothing is published. */
  async list(key: string): Promise<PublicLinkEntry[]> {
    const version = await findPublished(this.pool, key);
    if (version === undefined) throw new ProblemError('thing/not-found');
    if (version === null) return [];
    const workflow = await this.published(key);
    const links = new Map((await findLinksOf(this.pool, key)).map((link) => [link.stage, link]));
    return workflow.definition.stages
      .filter(({ kind }) => kind === 'intake')
      .map((stage) => this.toEntry(workflow, stage, links.get(stage.key) ?? null));
  }

  /** Sets up a link. Codes: `link/unfit`, with what is wrong; `workflow/not-published`. */
  async put(key: string, stage: string, settings: PublicLinkSettings): Promise<PublicLinkEntry> {
    const workflow = await this.published(key);
    const details = faultsOf(workflow, stage, settings);
    if (details.length > 0) throw new ProblemError('link/unfit', { details });
    await putLink(this.pool, { workflow: key, stage, address: newAddress(), settings });
    return this.find(key, stage);
  }

  /** Gives a link another address. */
  async renew(key: string, stage: string): Promise<PublicLinkEntry> {
    if (!(await renewLink(this.pool, key, stage, newAddress()))) throw new ProblemError('thing/not-found');
    return this.find(key, stage);
  }

  private async find(key: string, stage: string): Promise<PublicLinkEntry> {
    const found = (await this.list(key)).find((entry) => entry.stage === stage);
    if (!found) throw new ProblemError('thing/not-found');
    return found;
  }

  private async published(key: string): Promise<CompiledWorkflow> {
    const version = await findPublished(this.pool, key);
    if (version === undefined) throw new ProblemError('thing/not-found');
    const workflow = version === null ? null : await this.context.workflows.find(key, version);
    if (!workflow) throw new ProblemError('workflow/not-published');
    return workflow;
  }

  private toEntry(workflow: CompiledWorkflow, stage: Stage, link: LinkRow | null): PublicLinkEntry {
    return {
      stage: stage.key,
      stageName: stage.name,
      link: link && {
        settings: link.settings,
        address: link.address,
        begun: link.begun,
        state: stateOf(link, this.context.clock()),
      },
      texts: textsAt(workflow, stage.key),
      remarks: remarksOn(workflow, stage),
    };
  }
}

/** Texts that are entered at an intake and that everybody may read. */
export function textsAt(workflow: CompiledWorkflow, stage: string): { key: string; name: string }[] {
  const { forms } = workflow;
  const steps = [...forms.stageForm(stage).fieldSteps.values()];
  return steps
    .filter(
      ({ of, placement }) => of.field.type === 'text' && canBeEntered(placement) && forms.readers.of(of.field.key).length === 0,
    )
    .map(({ of }) => ({ key: of.field.key, name: of.field.name }));
}

/** What guests can't do at an intake. */
function remarksOn(workflow: CompiledWorkflow, stage: Stage): string[] {
  const { forms, definition } = workflow;
  const said: string[] = [];
  if (!mayBegin(stage, ANYBODY)) said.push(SERVER_EN.details['link-has-roles'].replace('{stage}', stage.name));
  const handOffs = definition.handOffs.filter(({ from }) => from === stage.key);
  if (!handOffs.some(({ roles, byClock }) => roles.length === 0 && byClock?.alone !== true))
    said.push(SERVER_EN.details['link-no-hand-off']);
  for (const { of, placement, rows } of forms.stageForm(stage.key).fieldSteps.values()) {
    const parts = [of.field, ...rows.map((row) => row.of.field)];
    const chosen = canBeEntered(placement) ? parts.filter(({ type }) => type === 'member' || type === 'reference') : [];
    for (const { name } of chosen) said.push(SERVER_EN.details['link-no-choices'].replace('{field}', name));
  }
  return said;
}

/** What is wrong with the settings of a link. */
function faultsOf(workflow: CompiledWorkflow, key: string, settings: PublicLinkSettings): ProblemDetail[] {
  const detail = (path: string, message: string): ProblemDetail => ({
    code: 'link/unfit',
    message,
    path,
    mend: SERVER_EN.problems['link/unfit'].mend,
    params: {},
    field: null,
    row: null,
    subField: null,
  });
  const { details } = SERVER_EN;
  const stage = workflow.stages.get(key)?.stage;
  if (stage?.kind !== 'intake') return [detail('stage', details['link-no-intake'].replace('{stage}', key))];
  const found: ProblemDetail[] = [];
  if (settings.isOpen && !mayBegin(stage, ANYBODY))
    found.push(detail('stage', details['link-has-roles'].replace('{stage}', stage.name)));
  const { opensAt, closesAt } = settings;
  if (opensAt !== null && closesAt !== null && closesAt <= opensAt) found.push(detail('closesAt', details['link-ends-first']));
  const texts = new Set(textsAt(workflow, key).map((text) => text.key));
  for (const part of ['nameField', 'mailField'] as const) {
    const field = settings[part];
    if (field !== null && !texts.has(field)) found.push(detail(part, details['link-no-field'].replace('{field}', field)));
  }
  const said = checkAcknowledgement(workflow, settings.acknowledgement);
  return [...found, ...toDetails(said).map((one) => ({ ...one, path: 'acknowledgement' }))];
}

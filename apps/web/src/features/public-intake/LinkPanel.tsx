import { Button, Select, Switch, TagsInput } from '@mantine/core';
import type { PublicLinkEntry, PublicLinkSettings } from '@ypomet/contract';
import { readLocalMoment } from '@ypomet/core';
import { useState } from 'react';
import { formatInstant } from '../../shared/instants.ts';
import { Notice } from '../../shared/Notice.tsx';
import { ApiProblem, problemText } from '../../shared/problems.ts';
import { CountInput } from '../../shared/reading/CountInput.tsx';
import { ReadInput } from '../../shared/reading/ReadInput.tsx';
import { todayIn } from '../../shared/reading/today.ts';
import { DayButton } from '../forms/DayButton.tsx';
import { useSession } from '../session/queries.ts';
import { TemplateField } from '../templates/TemplateField.tsx';
import { CopyAddress } from './CopyAddress.tsx';
import classes from './LinkPanel.module.css';
import { usePutLink, useRenewLink } from './queries.ts';
import { newSettings, snippetOf, stateInWords } from './settings.ts';

type Props = { readonly workflow: string; readonly name: string; readonly entry: PublicLinkEntry };

/** The public link of one intake: whether people outside can use it, within which bounds, and what they read. Each change is kept at once. */
export function LinkPanel({ workflow, name, entry }: Props) {
  const { stage, stageName, link, remarks } = entry;
  const put = usePutLink(workflow, stage);
  const [settings, setSettings] = useState(link?.settings ?? newSettings(entry));
  const change = (part: Partial<PublicLinkSettings>): void => {
    const next = { ...settings, ...part };
    setSettings(next);
    put.mutate(next);
  };
  const details = put.error instanceof ApiProblem ? put.error.problem.details : [];
  const faultAt = (path: keyof PublicLinkSettings): string | null => details.find((one) => one.path === path)?.message ?? null;
  const general =
    put.error && details.length === 0 ? problemText(put.error) : details.find(({ path }) => path === 'stage')?.message;
  const { origin } = window.location;
  return (
    <section className={classes.panel} aria-label={`Public link of ${stageName}`}>
      <header className={classes.head}>
        <div>
          <h2>{stageName}</h2>
          <p className={classes.soft}>{stateInWords(entry)}</p>
        </div>
        <span className={classes.kept} role="status">
          {put.isPending ? 'Keeping …' : put.isSuccess ? 'Kept' : ''}
        </span>
        <Switch
          label="People without an account may begin here"
          checked={settings.isOpen}
          onChange={({ currentTarget: { checked } }) => change({ isOpen: checked })}
        />
      </header>
      {general && <Notice tone="fault" title={general} />}
      {remarks.length > 0 && (
        <Notice tone="caution" title="Guests can’t do all that this stage asks for">
          <ul className={classes.remarks}>
            {remarks.map((remark) => (
              <li key={remark}>{remark}</li>
            ))}
          </ul>
        </Notice>
      )}
      {link && (
        <div className={classes.address}>
          <h3>Its address</h3>
          <CopyAddress text={`${origin}/open/${link.address}`} label={`Address of ${stageName}`} />
          <Renew workflow={workflow} stage={stage} />
        </div>
      )}
      <Bounds settings={settings} faultAt={faultAt} onChange={change} />
      <People entry={entry} settings={settings} faultAt={faultAt} onChange={change} />
      <div className={classes.wide}>
        <TemplateField
          label="What is read when it has arrived"
          note="Empty: the acknowledgement of the button that was pressed"
          text={settings.acknowledgement}
          path={`link.${stage}`}
          onKeep={(acknowledgement) => {
            change({ acknowledgement });
            return true;
          }}
        />
        {faultAt('acknowledgement') && <p className={classes.fault}>{faultAt('acknowledgement')}</p>}
      </div>
      <div className={classes.wide}>
        <TagsInput
          label="Sites that may show the form within their pages"
          description="Their origins, such as https://museum.example; no other site can"
          placeholder={settings.frames.length === 0 ? 'None' : ''}
          value={settings.frames}
          splitChars={[',', ' ']}
          maxTags={20}
          error={put.error && details.length === 0 ? 'Write an origin: https:// and the site’s name, nothing after it.' : null}
          onChange={(frames) => change({ frames })}
        />
        {link && settings.frames.length > 0 && (
          <div className={classes.snippet}>
            <p className={classes.soft}>Put this where the form is to stand:</p>
            <CopyAddress text={snippetOf(origin, link.address, name)} label={`Snippet of ${stageName}`} />
          </div>
        )}
      </div>
    </section>
  );
}

type PartProps = {
  readonly settings: PublicLinkSettings;
  readonly faultAt: (path: keyof PublicLinkSettings) => string | null;
  readonly onChange: (part: Partial<PublicLinkSettings>) => void;
};

/** An instant as the settings of a link hold it: with its thousandths. */
const toStored = (instant: string): string => new Date(instant).toISOString();

/** From when, until when, how many. */
function Bounds({ settings, faultAt, onChange }: PartProps) {
  const { workspace } = useSession();
  const { zone, locale } = workspace;
  const write = (instant: string | null): string => (instant === null ? '' : formatInstant(instant, workspace));
  const day = (part: 'opensAt' | 'closesAt', label: string, none: string) => (
    <div>
      <label htmlFor={`link-${part}`} className={classes.label}>
        {label}
      </label>
      <ReadInput<string>
        id={`link-${part}`}
        when="left"
        placeholder={none}
        hasError={faultAt(part) !== null}
        shown={write(settings[part])}
        read={(text) => readLocalMoment(text, { locale, zone, today: todayIn(zone) })}
        write={write}
        example={write('2027-03-12T08:30:00Z')}
        onKeep={(instant) => {
          const kept = instant === null ? null : toStored(instant);
          if (kept !== settings[part]) onChange({ [part]: kept });
          return null;
        }}
        rightSection={
          <DayButton
            label={`Choose a day: ${label}`}
            kind="date-time"
            value={settings[part] ?? ''}
            locale={locale}
            zone={zone}
            onChoose={(instant) => onChange({ [part]: toStored(instant) })}
          />
        }
      />
      {faultAt(part) && <p className={classes.fault}>{faultAt(part)}</p>}
    </div>
  );
  return (
    <div className={classes.row}>
      {day('opensAt', 'From', 'at once')}
      {day('closesAt', 'Until', 'for ever')}
      <CountInput
        label="At most, in all"
        placeholder="any number"
        locale={locale}
        min={1}
        max={1_000_000}
        value={settings.maxRecords}
        onKeep={(maxRecords) => {
          onChange({ maxRecords });
          return null;
        }}
      />
      <CountInput
        label="At most, an hour"
        placeholder="60"
        locale={locale}
        min={1}
        max={10_000}
        value={settings.maxPerHour}
        onKeep={(maxPerHour) => {
          onChange({ maxPerHour: maxPerHour ?? 60 });
          return null;
        }}
      />
    </div>
  );
}

/** By which fields a guest is known and written to. */
function People({ entry, settings, faultAt, onChange }: PartProps & { readonly entry: PublicLinkEntry }) {
  const data = entry.texts.map(({ key, name }) => ({ value: key, label: name }));
  const field = (part: 'nameField' | 'mailField', label: string, description: string, none: string) => (
    <Select
      label={label}
      description={description}
      placeholder={none}
      data={data}
      clearable
      allowDeselect
      clearButtonProps={{ 'aria-label': `No field for: ${label}` }}
      value={settings[part]}
      error={faultAt(part)}
      onChange={(key) => onChange({ [part]: key })}
    />
  );
  return (
    <div className={classes.row} data-two>
      {field('nameField', 'Whoever submits is called', 'as a field says that everybody may read', '“A guest”')}
      {field(
        'mailField',
        'Whoever submits is written to',
        'at a field’s address, once confirmed; with their private address',
        'Nobody is',
      )}
    </div>
  );
}

/** Another address, where the old one has gone too far. Asks once, naming what is lost. */
function Renew({ workflow, stage }: { readonly workflow: string; readonly stage: string }) {
  const renew = useRenewLink(workflow, stage);
  const [isAsking, setAsking] = useState(false);
  if (!isAsking) {
    return (
      <Button variant="subtle" size="compact-xs" onClick={() => setAsking(true)}>
        Give it another address
      </Button>
    );
  }
  return (
    <p className={classes.ask}>
      Whoever has this address finds nothing there any more, and forms that are being filled in can’t be handed in.{' '}
      <Button
        size="compact-xs"
        loading={renew.isPending}
        onClick={() => renew.mutate(undefined, { onSuccess: () => setAsking(false) })}
      >
        Give it another one
      </Button>{' '}
      <Button size="compact-xs" variant="default" onClick={() => setAsking(false)}>
        Keep it
      </Button>
      {renew.error && <span className={classes.fault}> {problemText(renew.error)}</span>}
    </p>
  );
}

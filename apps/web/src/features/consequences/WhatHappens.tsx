import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { Link } from 'react-router';
import { sayValue } from '../conditions/in-words.ts';
import { useWording } from '../conditions/use-place.ts';
import { useDraft } from '../drafts/draft-context.tsx';
import { membersQuery } from '../drafts/queries.ts';
import inspector from '../plan/Inspector.module.css';
import { listGroups, type Owner } from './listing.ts';

/** What is answered, sent, opened and assigned at a hand-off or on arrival, each a way to where it is designed. */
export function WhatHappens({ kind, of: key }: { readonly kind: Owner['kind']; readonly of: string }) {
  const { definition } = useDraft();
  const members = useQuery(membersQuery);
  const wording = useWording();
  const items = useMemo(() => {
    const names = new Map(members.data?.map(({ id, name }) => [id, name]));
    const say = (text: string): string => sayValue(text, wording);
    const groups = listGroups(definition, (id) => names.get(id) ?? 'a member', say);
    return groups.find(({ owner }) => owner?.kind === kind && owner.key === key)?.items ?? [];
  }, [definition, members.data, wording, kind, key]);
  const base = `/workflows/${definition.key}/consequences`;
  return (
    <section aria-label="What happens then">
      <h3>{kind === 'hand-off' ? 'What happens then' : 'What happens on arrival'}</h3>
      {items.length === 0 && <p className={inspector.soft}>Nothing is sent or opened.</p>}
      <ul className={inspector.happens}>
        {items.map((item) => (
          <li key={item.path}>
            <span className={`${inspector.soft} mono`}>{item.kind}</span>{' '}
            <Link to={`${base}?at=${encodeURIComponent(item.path)}`} className={inspector.link}>
              {item.name}
            </Link>
            {item.when !== null && <span className={inspector.soft}> under a condition</span>}
          </li>
        ))}
      </ul>
      <Link to={base} className={`${inspector.link} ${inspector.more}`}>
        To the consequences
      </Link>
    </section>
  );
}

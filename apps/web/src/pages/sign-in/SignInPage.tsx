import { Button, PasswordInput, TextInput, UnstyledButton } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { type FormEvent, useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import { demoMembersQuery, useSignIn } from '../../features/session/queries.ts';
import { Notice } from '../../shared/Notice.tsx';
import { ApiProblem } from '../../shared/problems.ts';
import classes from './SignInPage.module.css';

/** Who is here: anybody, wanting to get to work. In the demo: wanting to be one of its people. */
export function SignInPage() {
  const [email, setEmail] = useState('');
  const [password, setPassword] = useState('');
  const [query] = useSearchParams();
  const signIn = useSignIn();
  const navigate = useNavigate();
  const demo = useQuery(demoMembersQuery);
  const enter = (credentials: { email: string; password: string }) => {
    const to = query.get('to') ?? '/';
    signIn.mutate(credentials, { onSuccess: () => navigate(to.startsWith('/') && !to.startsWith('//') ? to : '/') });
  };
  const submit = (event: FormEvent) => {
    event.preventDefault();
    enter({ email, password });
  };
  return (
    <main className={classes.page}>
      <Drawing />
      <div className={classes.columns}>
        <form onSubmit={submit} className={classes.form}>
          <h1 className={classes.title}>ypomet</h1>
          <p className={classes.line}>Record workflows, designed, proved and run.</p>
          <TextInput
            label="E-mail"
            type="email"
            name="email"
            autoComplete="username"
            required
            value={email}
            onChange={(event) => setEmail(event.currentTarget.value)}
          />
          <PasswordInput
            label="Password"
            name="password"
            autoComplete="current-password"
            required
            value={password}
            onChange={(event) => setPassword(event.currentTarget.value)}
          />
          {signIn.isError && (
            <Notice tone="fault" title={signIn.error.message}>
              {signIn.error instanceof ApiProblem ? signIn.error.problem.detail : null}
            </Notice>
          )}
          <Button type="submit" loading={signIn.isPending}>
            Sign in
          </Button>
        </form>
        {demo.data && demo.data.length > 0 && (
          <section aria-label="People of the demo" className={classes.people}>
            <h2>Or be someone of the demo</h2>
            {demo.data.map((member) => (
              <UnstyledButton
                key={member.email}
                className={classes.person}
                onClick={() => enter({ email: member.email, password: member.password })}
              >
                <strong>{member.name}</strong>
                <span>{member.does}</span>
              </UnstyledButton>
            ))}
          </section>
        )}
      </div>
    </main>
  );
}

/** Two tracks that part and meet again: what the product is about. */
function Drawing() {
  const stations = [60, 230, 400, 740, 910, 1080];
  return (
    <svg className={classes.drawing} viewBox="0 0 1140 130" aria-hidden="true">
      <path d="M60 40H1080" className={classes.first} />
      <path d="M230 46C300 46 290 100 360 100H780C850 100 840 46 910 46" className={classes.second} />
      {stations.map((x) => (
        <circle key={x} cx={x} cy={40} r={8} className={classes.firstStation} />
      ))}
      {[470, 640].map((x) => (
        <circle key={x} cx={x} cy={100} r={7} className={classes.secondStation} />
      ))}
    </svg>
  );
}

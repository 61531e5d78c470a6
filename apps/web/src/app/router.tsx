import type { ComponentType } from 'react';
import { createBrowserRouter, type RouteObject } from 'react-router';
import { RouteFault } from './RouteFault.tsx';

type Page = { readonly Component: ComponentType };

/** A page: a chunk of its own, and a boundary of its own, so that one that fails leaves the frame around it standing. */
const page = (load: () => Promise<Page>): Pick<RouteObject, 'lazy' | 'ErrorBoundary'> => ({
  lazy: load,
  ErrorBoundary: RouteFault,
});

/** The designer's pages and the participants' share only what both need. */
export const router = createBrowserRouter([
  {
    path: '/sign-in',
    ...page(async () => ({ Component: (await import('../pages/sign-in/SignInPage.tsx')).SignInPage })),
    HydrateFallback: () => null,
  },
  {
    path: '/open/:address',
    ...page(async () => ({ Component: (await import('../pages/public/OpenPage.tsx')).OpenPage })),
    HydrateFallback: () => null,
  },
  {
    path: '/embed/:address',
    ...page(async () => ({ Component: (await import('../pages/public/OpenPage.tsx')).OpenPage })),
    HydrateFallback: () => null,
  },
  {
    path: '/confirm',
    ...page(async () => ({ Component: (await import('../pages/public/ConfirmPage.tsx')).ConfirmPage })),
  },
  {
    path: '/follow',
    ...page(async () => ({ Component: (await import('../pages/public/FollowPage.tsx')).FollowPage })),
    HydrateFallback: () => null,
  },
  {
    path: '/',
    ...page(async () => ({ Component: (await import('./Shell.tsx')).Shell })),
    HydrateFallback: () => null,
    children: [
      { index: true, ...page(async () => ({ Component: (await import('../pages/home/HomePage.tsx')).HomePage })) },
      { path: 'desk', ...page(async () => ({ Component: (await import('../pages/desk/DeskPage.tsx')).DeskPage })) },
      {
        path: 'begin/:workflow/:stage/many',
        ...page(async () => ({ Component: (await import('../pages/record/ImportPage.tsx')).ImportPage })),
      },
      {
        path: 'begin/:workflow/:stage',
        ...page(async () => ({ Component: (await import('../pages/record/BeginPage.tsx')).BeginPage })),
      },
      { path: 'records/:id', ...page(async () => ({ Component: (await import('../pages/record/RecordPage.tsx')).RecordPage })) },
      {
        path: 'workflows',
        ...page(async () => ({ Component: (await import('../pages/workflows/WorkflowsPage.tsx')).WorkflowsPage })),
      },
      {
        path: 'workflows/:workflow',
        ...page(async () => ({ Component: (await import('../pages/designer/DesignerLayout.tsx')).DesignerLayout })),
        children: [
          { path: 'plan', ...page(async () => ({ Component: (await import('../pages/designer/PlanPage.tsx')).PlanPage })) },
          {
            path: 'decisions',
            ...page(async () => {
              const { DecisionsPage, ready } = await import('../pages/designer/DecisionsPage.tsx');
              await ready;
              return { Component: DecisionsPage };
            }),
          },
          {
            path: 'consequences',
            ...page(async () => {
              const { ConsequencesPage, ready } = await import('../pages/designer/ConsequencesPage.tsx');
              await ready;
              return { Component: ConsequencesPage };
            }),
          },
          {
            path: 'rehearse',
            ...page(async () => {
              const { RehearsePage, ready } = await import('../pages/designer/RehearsePage.tsx');
              await ready;
              return { Component: RehearsePage };
            }),
          },
          {
            path: 'intakes',
            ...page(async () => ({ Component: (await import('../pages/designer/IntakesPage.tsx')).IntakesPage })),
          },
          {
            path: 'versions',
            ...page(async () => ({ Component: (await import('../pages/designer/VersionsPage.tsx')).VersionsPage })),
          },
        ],
      },
      {
        path: 'dispatch',
        ...page(async () => ({ Component: (await import('../pages/dispatch/DispatchPage.tsx')).DispatchPage })),
      },
      {
        path: 'calendar',
        ...page(async () => ({ Component: (await import('../pages/dispatch/CalendarPage.tsx')).CalendarPage })),
      },
      { path: 'outlets', ...page(async () => ({ Component: (await import('../pages/dispatch/OutletsPage.tsx')).OutletsPage })) },
      {
        path: 'receiver',
        ...page(async () => ({ Component: (await import('../pages/dispatch/ReceiverPage.tsx')).ReceiverPage })),
      },
      {
        path: 'file-registers',
        ...page(async () => ({ Component: (await import('../pages/dispatch/RegistersPage.tsx')).RegistersPage })),
      },
      {
        path: 'registers/:workflow?',
        ...page(async () => ({ Component: (await import('../pages/register/RegisterPage.tsx')).RegisterPage })),
      },
      { path: 'mailbox', ...page(async () => ({ Component: (await import('../pages/dispatch/MailboxPage.tsx')).MailboxPage })) },
      {
        path: 'mailbox/:mail',
        ...page(async () => ({ Component: (await import('../pages/dispatch/MailboxPage.tsx')).MailboxPage })),
      },
      { path: '*', ...page(async () => ({ Component: (await import('../pages/home/NothingHere.tsx')).NothingHere })) },
    ],
  },
]);

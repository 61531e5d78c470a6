import { createBrowserRouter } from 'react-router';
import { RouteFault } from './RouteFault.tsx';
import { Shell } from './Shell.tsx';

/** Every page is a chunk of its own; the designer's and the participants' share only what both need. */
export const router = createBrowserRouter([
  {
    path: '/sign-in',
    lazy: async () => ({ Component: (await import('../pages/sign-in/SignInPage.tsx')).SignInPage }),
    HydrateFallback: () => null,
    ErrorBoundary: RouteFault,
  },
  {
    path: '/',
    Component: Shell,
    ErrorBoundary: RouteFault,
    HydrateFallback: () => null,
    children: [
      { index: true, lazy: async () => ({ Component: (await import('../pages/home/HomePage.tsx')).HomePage }) },
      { path: 'desk', lazy: async () => ({ Component: (await import('../pages/desk/DeskPage.tsx')).DeskPage }) },
      {
        path: 'begin/:workflow/:stage',
        lazy: async () => ({ Component: (await import('../pages/record/BeginPage.tsx')).BeginPage }),
      },
      { path: 'records/:id', lazy: async () => ({ Component: (await import('../pages/record/RecordPage.tsx')).RecordPage }) },
      {
        path: 'workflows',
        lazy: async () => ({ Component: (await import('../pages/workflows/WorkflowsPage.tsx')).WorkflowsPage }),
      },
      {
        path: 'workflows/:workflow',
        lazy: async () => ({ Component: (await import('../pages/designer/DesignerLayout.tsx')).DesignerLayout }),
        children: [
          { path: 'plan', lazy: async () => ({ Component: (await import('../pages/designer/PlanPage.tsx')).PlanPage }) },
          {
            path: 'rehearse',
            lazy: async () => ({ Component: (await import('../pages/designer/RehearsePage.tsx')).RehearsePage }),
          },
          {
            path: 'versions',
            lazy: async () => ({ Component: (await import('../pages/designer/VersionsPage.tsx')).VersionsPage }),
          },
        ],
      },
      { path: 'dispatch', lazy: async () => ({ Component: (await import('../pages/dispatch/DispatchPage.tsx')).DispatchPage }) },
      { path: 'mailbox', lazy: async () => ({ Component: (await import('../pages/dispatch/MailboxPage.tsx')).MailboxPage }) },
      {
        path: 'mailbox/:mail',
        lazy: async () => ({ Component: (await import('../pages/dispatch/MailboxPage.tsx')).MailboxPage }),
      },
      { path: '*', lazy: async () => ({ Component: (await import('../pages/home/NothingHere.tsx')).NothingHere }) },
    ],
  },
]);

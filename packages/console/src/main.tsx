import './http/without-eval.ts';
import { QueryClientProvider, useQuery } from '@tanstack/react-query';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { createBrowserRouter, Navigate, Outlet, RouterProvider } from 'react-router';
import { BuildPage } from './builds/build-page.tsx';
import { BuildsPage } from './builds/builds-page.tsx';
import './console.css';
import { AdmitPage } from './admission/admit-page.tsx';
import { ComparePage } from './comparisons/compare-page.tsx';
import { Told } from './frame/told.tsx';
import { queries, troubleOf } from './http/api.ts';
import { useEvents } from './http/events.ts';
import { LanesPage } from './lanes/lanes-page.tsx';
import { MachinesPage } from './machines/machines-page.tsx';
import { MapPage } from './map/map-page.tsx';
import { ReachPage } from './map/reach-page.tsx';
import { Failed } from './parts/failed.tsx';
import { Reading } from './parts/reading.tsx';
import { BackPage } from './people/back-page.tsx';
import { JoinPage } from './people/join-page.tsx';
import { MailPage } from './people/mail-page.tsx';
import { MePage } from './people/me-page.tsx';
import { MembersPage, ProgramsPage } from './people/members-page.tsx';
import { mine } from './people/mine.ts';
import { PasswordPage } from './people/password-page.tsx';
import { PeoplePage } from './people/people-page.tsx';
import { SignInPage } from './people/sign-in-page.tsx';
import { PreviewsPage } from './previews/previews-page.tsx';
import { EndPage } from './projects/end-page.tsx';
import { NewProjectPage } from './projects/new-project-page.tsx';
import { ProjectSettingsPage } from './projects/project-settings-page.tsx';
import { ProjectsPage } from './projects/projects-page.tsx';
import { BuildingPage } from './recipes/building-page.tsx';
import { PullRequestPage } from './refs/pull-request-page.tsx';
import { PullRequestsPage } from './refs/pull-requests-page.tsx';
import { HistoryPage } from './releases/history-page.tsx';
import { ValuesPage } from './variables/values-page.tsx';
import { VisitsPage } from './visits/visits-page.tsx';

/** Pages, which the service tells when what they show has changed. */
function Listening() {
  useEvents();
  return (
    <>
      <Outlet />
      <Told />
    </>
  );
}

/** The page that is open, to come back to. */
function here(): string {
  return `${window.location.pathname}${window.location.search}`;
}

/** Pages for those who are signed in; everybody else is asked to. */
function SignedIn() {
  const { data, error, refetch } = useQuery(mine);
  if (data !== undefined) return <Listening />;
  if (error === null) return <Reading what="who you are" />;
  return troubleOf(error).code === 'not-signed-in' ? (
    <Navigate to={`/sign-in?then=${encodeURIComponent(here())}`} replace />
  ) : (
    <Failed error={error} retry={() => void refetch()} />
  );
}

const router = createBrowserRouter([
  { path: '/sign-in', element: <SignInPage /> },
  { path: '/sign-in/back', element: <BackPage /> },
  { path: '/join', element: <JoinPage /> },
  { path: '/password', element: <PasswordPage /> },
  // A link of a mail holds a key behind its sign: it is kept by no detour.
  { path: '/mail', element: <MailPage /> },
  {
    element: <SignedIn />,
    children: [
      { path: '/', element: <ProjectsPage /> },
      { path: '/admit', element: <AdmitPage /> },
      { path: '/me', element: <MePage /> },
      { path: '/people', element: <PeoplePage /> },
      { path: '/machines', element: <MachinesPage /> },
      { path: '/new', element: <NewProjectPage /> },
      { path: '/p/:project', element: <LanesPage /> },
      { path: '/p/:project/builds', element: <BuildsPage /> },
      { path: '/p/:project/builds/:number', element: <BuildPage /> },
      { path: '/p/:project/compare/:before/:after', element: <ComparePage /> },
      { path: '/p/:project/history', element: <HistoryPage /> },
      { path: '/p/:project/history/:environment', element: <HistoryPage /> },
      { path: '/p/:project/visits', element: <VisitsPage /> },
      { path: '/p/:project/visits/:environment', element: <VisitsPage /> },
      { path: '/p/:project/map', element: <MapPage /> },
      { path: '/p/:project/map/reach', element: <ReachPage /> },
      { path: '/p/:project/settings', element: <ProjectSettingsPage /> },
      { path: '/p/:project/settings/building', element: <BuildingPage /> },
      { path: '/p/:project/settings/values', element: <ValuesPage /> },
      { path: '/p/:project/settings/people', element: <MembersPage /> },
      { path: '/p/:project/settings/programs', element: <ProgramsPage /> },
      { path: '/p/:project/settings/end', element: <EndPage /> },
      { path: '/p/:project/pull-requests', element: <PullRequestsPage /> },
      { path: '/p/:project/pull-requests/previews', element: <PreviewsPage /> },
      { path: '/p/:project/:name', element: <PullRequestPage /> },
      { path: '*', element: <Navigate to="/" replace /> },
    ],
  },
]);

const root = document.getElementById('root');
if (root !== null) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </StrictMode>,
  );
}

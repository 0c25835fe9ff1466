import { ConfigProvider, theme } from "antd";
import { lazy, Suspense } from "react";
import { BrowserRouter, Route, Routes, useLocation, useParams } from "react-router";
import css from "./app.module.css";
import { ErrorBoundary } from "./frame/ErrorBoundary";
import { Page } from "./frame/Page";
import { TellProvider } from "./frame/Tell";
import { PageTitle } from "./jobs/PageTitle";
import { LoadingBay } from "./loading-bay/LoadingBay";
import { useTheme } from "./theme/useTheme";
import { TopStrip } from "./top-strip/TopStrip";

const ReportPage = lazy(() => import("./plans/ReportPage").then((m) => ({ default: m.ReportPage })));
const SessionPage = lazy(() => import("./session/SessionPage").then((m) => ({ default: m.SessionPage })));
const NewSession = lazy(() => import("./set-up/NewSession").then((m) => ({ default: m.NewSession })));
const AdoptPage = lazy(() => import("./adopt/AdoptPage").then((m) => ({ default: m.AdoptPage })));
const ShelvesPage = lazy(() => import("./shelves/ShelvesPage").then((m) => ({ default: m.ShelvesPage })));

const ShelfPage = lazy(() => import("./shelves/ShelfPage").then((m) => ({ default: m.ShelfPage })));
const FoundSessionsPage = lazy(() =>
  import("./adopt/FoundSessionsPage").then((m) => ({ default: m.FoundSessionsPage })),
);

const ManySessionsPage = lazy(() =>
  import("./loading-bay/ManySessionsPage").then((m) => ({ default: m.ManySessionsPage })),
);

const SettingsPage = lazy(() => import("./settings/SettingsPage").then((m) => ({ default: m.SettingsPage })));

export function App() {
  const { isNight, palette } = useTheme();
  return (
    <ConfigProvider
      theme={{
        algorithm: isNight ? theme.darkAlgorithm : theme.defaultAlgorithm,
        token: {
          colorPrimary: palette.rope,
          colorLink: palette.rope,
          colorInfo: palette.away,
          colorSuccess: palette.inside,
          colorWarning: palette.outside,
          colorError: palette.missing,
          colorBgBase: palette.sheet,
          colorBgContainer: palette.raised,
          colorBgElevated: palette.raised,
          colorTextBase: palette.ink,
          colorTextPlaceholder: palette.faint,
          colorTextLightSolid: palette.ropeText,
          colorBorder: palette.edge,
          colorBorderSecondary: palette.line,
          fontFamily: "'Instrument Sans Variable', sans-serif",
          fontFamilyCode: "'IBM Plex Mono', monospace",
          borderRadius: 3,
          fontSize: 14,
          controlHeight: 32,
          motion: !window.matchMedia("(prefers-reduced-motion: reduce)").matches,
          motionDurationMid: "0.12s",
          motionDurationSlow: "0.16s",
        },
        components: {
          Button: { colorPrimary: palette.rope, primaryShadow: "none", defaultShadow: "none", fontWeight: 550 },
          Breadcrumb: { itemColor: palette.quiet, lastItemColor: palette.ink, separatorColor: palette.quiet },
        },
      }}
    >
      <TellProvider>
        <div className={css.app}>
          <BrowserRouter>
            <a className={css.skip} href="#page">
              To the page
            </a>
            <TopStrip />
            <Pages />
          </BrowserRouter>
        </div>
      </TellProvider>
    </ConfigProvider>
  );
}

function Pages() {
  const { pathname } = useLocation();
  return (
    <div className={css.pages} id="page" tabIndex={-1}>
      <ErrorBoundary place={pathname}>
        <Suspense fallback={<Page about="One moment." />}>
          <Routes>
            <Route path="/" element={<LoadingBay />} />
            <Route path="/new" element={<NewSession />} />
            <Route path="/adopt" element={<AdoptPage />} />
            <Route path="/shelves" element={<ShelvesPage />} />
            <Route path="/shelves/:id" element={<ShelfPage />} />
            <Route path="/shelves/:id/sessions" element={<FoundSessionsOfAddress />} />
            <Route path="/settings" element={<SettingsPage />} />
            <Route path="/many" element={<ManySessionsPage />} />
            <Route path="/sessions/:id/report/:planId" element={<ReportPage />} />
            <Route path="/sessions/:id/:station?" element={<SessionOfAddress />} />
            <Route
              path="*"
              element={
                <Page title="There is nothing at this address.">
                  <PageTitle>Nothing here</PageTitle>
                  <a href="/">To the loading bay</a>
                </Page>
              }
            />
          </Routes>
        </Suspense>
      </ErrorBoundary>
    </div>
  );
}

/** Each session has a page of its own, so that nothing of one is carried over to another. */
function SessionOfAddress() {
  const { id = "" } = useParams();
  return <SessionPage key={id} />;
}

/** Each shelf has a page of its own, with its own ticks. */
function FoundSessionsOfAddress() {
  const { id = "" } = useParams();
  return <FoundSessionsPage key={id} />;
}

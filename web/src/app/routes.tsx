import type { ComponentType } from "react";
import { createBrowserRouter, Navigate } from "react-router";
import { Gate } from "./Gate";
import { Unexpected } from "./Unexpected";

/** A page whose script is loaded when it is opened; the service worker has all of them for the field. */
const page = <Name extends string>(load: () => Promise<Record<Name, ComponentType>>, name: Name) => ({
  lazy: async () => ({ Component: (await load())[name] }),
});
/** Shown for the moment until the first page's script is there. */
const Nothing = () => null;

const STAGES = [
  { path: "question", ...page(() => import("../features/trial/Question"), "Question") },
  { path: "treatments", ...page(() => import("../features/trial/treatments/Treatments"), "Treatments") },
  { path: "layout", ...page(() => import("../features/trial/layout/Layout"), "Layout") },
  { path: "seed", ...page(() => import("../features/trial/seed/Seed"), "Seed") },
  { path: "planting", ...page(() => import("../features/trial/planting/Planting"), "Planting") },
  { path: "stand", ...page(() => import("../features/trial/stand/Stand"), "Stand") },
  { path: "season", ...page(() => import("../features/trial/season/Season"), "Season") },
  { path: "estimate", ...page(() => import("../features/trial/estimate/Estimate"), "Estimate") },
  { path: "harvest", ...page(() => import("../features/trial/harvest/Harvest"), "Harvest") },
  { path: "verdict", ...page(() => import("../features/trial/verdict/Verdict"), "Verdict") },
];

const SETUP = [
  { path: "/setup", ...page(() => import("../features/setup/Setup"), "Setup") },
  { path: "/setup/seed-lots", ...page(() => import("../features/setup/FarmPages"), "SeedLotsPage") },
  { path: "/setup/machines", ...page(() => import("../features/setup/FarmPages"), "MachinesPage") },
  { path: "/setup/prices", ...page(() => import("../features/setup/FarmPages"), "PricesPage") },
  { path: "/setup/weather", ...page(() => import("../features/setup/FarmPages"), "WeatherPage") },
  { path: "/setup/stand-ins", ...page(() => import("../features/setup/FarmPages"), "StandInsPage") },
  { path: "/setup/people", ...page(() => import("../features/setup/People"), "People") },
  { path: "/setup/rights", ...page(() => import("../features/setup/Rights"), "Rights") },
  { path: "/setup/bin", ...page(() => import("../features/setup/Bin"), "Bin") },
  { path: "/setup/farms", ...page(() => import("../features/setup/Leaving"), "Leaving") },
  { path: "/setup/variables", ...page(() => import("../features/setup/Variables"), "Variables") },
  { path: "/setup/history", ...page(() => import("../features/history/History"), "WorkspaceHistory") },
  { path: "/setup/workspace", ...page(() => import("../features/setup/WorkspacePage"), "WorkspacePage") },
  { path: "/setup/backups", ...page(() => import("../features/setup/Backups"), "Backups") },
  { path: "/setup/system", ...page(() => import("../features/setup/System"), "System") },
  { path: "/setup/account", ...page(() => import("../features/setup/Account"), "Account") },
  { path: "/setup/devices", ...page(() => import("../features/setup/Devices"), "Devices") },
  { path: "/setup/look", ...page(() => import("../features/setup/Look"), "Look") },
];

export const router = createBrowserRouter([
  {
    path: "/welcome",
    HydrateFallback: Nothing,
    ...page(() => import("../features/welcome/Welcome"), "Welcome"),
    errorElement: <Unexpected />,
  },
  {
    element: <Gate />,
    HydrateFallback: Nothing,
    errorElement: <Unexpected />,
    children: [
      { path: "/trials/:trialId/fieldbook", ...page(() => import("../features/fieldbook/FieldBook"), "FieldBook") },
      {
        ...page(() => import("./Shell"), "Shell"),
        errorElement: <Unexpected />,
        children: [
          { path: "/", ...page(() => import("../features/today/Today"), "Today") },
          { path: "/trials", ...page(() => import("../features/trials/TrialList"), "TrialList") },
          { path: "/trials/new", ...page(() => import("../features/trials/NewTrial"), "NewTrial") },
          { path: "/trials/import", ...page(() => import("../features/trials/ImportTrial"), "ImportTrial") },
          {
            path: "/trials/:trialId",
            ...page(() => import("../features/trial/TrialFrame"), "TrialFrame"),
            children: [{ index: true, element: <Navigate to="question" replace /> }, ...STAGES],
          },
          { path: "/trials/:trialId/history", ...page(() => import("../features/history/History"), "History") },
          { path: "/trials/:trialId/report", ...page(() => import("../features/report/Report"), "Report") },
          { path: "/bench", ...page(() => import("../features/calculators/Calculators"), "Calculators") },
          { path: "/ledger", ...page(() => import("../features/ledger/Ledger"), "Ledger") },
          ...SETUP,
          { path: "/waiting", ...page(() => import("../features/waiting/WaitingRecords"), "WaitingRecords") },
          { path: "*", element: <Unexpected /> },
        ],
      },
    ],
  },
]);

import { createBrowserRouter, Navigate } from "react-router";
import { Bench } from "../features/bench/Bench";
import { FieldBook } from "../features/fieldbook/FieldBook";
import { Ledger } from "../features/ledger/Ledger";
import { Report } from "../features/report/Report";
import { Account } from "../features/setup/Account";
import { Backups } from "../features/setup/Backups";
import { Devices } from "../features/setup/Devices";
import { MachinesPage, PricesPage, SeedLotsPage, StandInsPage, WeatherPage } from "../features/setup/FarmPages";
import { Look } from "../features/setup/Look";
import { People } from "../features/setup/People";
import { Setup } from "../features/setup/Setup";
import { System } from "../features/setup/System";
import { WorkspacePage } from "../features/setup/WorkspacePage";
import { Today } from "../features/today/Today";
import { Estimate } from "../features/trial/estimate/Estimate";
import { Harvest } from "../features/trial/harvest/Harvest";
import { Layout } from "../features/trial/layout/Layout";
import { Planting } from "../features/trial/planting/Planting";
import { Question } from "../features/trial/Question";
import { Season } from "../features/trial/season/Season";
import { Seed } from "../features/trial/seed/Seed";
import { Stand } from "../features/trial/stand/Stand";
import { TrialFrame } from "../features/trial/TrialFrame";
import { Treatments } from "../features/trial/treatments/Treatments";
import { Verdict } from "../features/trial/verdict/Verdict";
import { ImportTrial } from "../features/trials/ImportTrial";
import { NewTrial } from "../features/trials/NewTrial";
import { Shelf } from "../features/trials/Shelf";
import { WaitingRecords } from "../features/waiting/WaitingRecords";
import { Welcome } from "../features/welcome/Welcome";
import { Gate } from "./Gate";
import { Shell } from "./Shell";
import { Unexpected } from "./Unexpected";

const STAGES = [
  { path: "question", element: <Question /> },
  { path: "treatments", element: <Treatments /> },
  { path: "layout", element: <Layout /> },
  { path: "seed", element: <Seed /> },
  { path: "planting", element: <Planting /> },
  { path: "stand", element: <Stand /> },
  { path: "season", element: <Season /> },
  { path: "estimate", element: <Estimate /> },
  { path: "harvest", element: <Harvest /> },
  { path: "verdict", element: <Verdict /> },
];

const SETUP = [
  { path: "/setup", element: <Setup /> },
  { path: "/setup/seed-lots", element: <SeedLotsPage /> },
  { path: "/setup/machines", element: <MachinesPage /> },
  { path: "/setup/prices", element: <PricesPage /> },
  { path: "/setup/weather", element: <WeatherPage /> },
  { path: "/setup/stand-ins", element: <StandInsPage /> },
  { path: "/setup/people", element: <People /> },
  { path: "/setup/workspace", element: <WorkspacePage /> },
  { path: "/setup/backups", element: <Backups /> },
  { path: "/setup/system", element: <System /> },
  { path: "/setup/account", element: <Account /> },
  { path: "/setup/devices", element: <Devices /> },
  { path: "/setup/look", element: <Look /> },
];

export const router = createBrowserRouter([
  { path: "/welcome", element: <Welcome />, errorElement: <Unexpected /> },
  {
    element: <Gate />,
    errorElement: <Unexpected />,
    children: [
      { path: "/trials/:trialId/fieldbook", element: <FieldBook /> },
      {
        element: <Shell />,
        errorElement: <Unexpected />,
        children: [
          { path: "/", element: <Today /> },
          { path: "/trials", element: <Shelf /> },
          { path: "/trials/new", element: <NewTrial /> },
          { path: "/trials/import", element: <ImportTrial /> },
          {
            path: "/trials/:trialId",
            element: <TrialFrame />,
            children: [{ index: true, element: <Navigate to="question" replace /> }, ...STAGES],
          },
          { path: "/trials/:trialId/report", element: <Report /> },
          { path: "/bench", element: <Bench /> },
          { path: "/ledger", element: <Ledger /> },
          ...SETUP,
          { path: "/waiting", element: <WaitingRecords /> },
          { path: "*", element: <Unexpected /> },
        ],
      },
    ],
  },
]);

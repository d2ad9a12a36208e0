import type { ReactNode } from "react";
import { useSeedLots } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { may } from "../../app/rights";
import { useReaderUnits } from "../../ui/readerUnits";
import { Waiting } from "../../ui/Waiting";
import { LotList } from "../seedlots/LotList";
import { Machines } from "./Machines";
import { PriceLists } from "./PriceLists";
import { SetupPlaces } from "./SetupPlaces";
import { StandIns } from "./StandIns";
import { Weather } from "./Weather";

function FarmPage({ children }: { children: ReactNode }) {
  return (
    <div className="mx-auto max-w-5xl">
      <SetupPlaces />
      {children}
    </div>
  );
}

export function SeedLotsPage() {
  const { workspace } = useHere();
  const lots = useSeedLots(workspace.id);
  const reader = useReaderUnits();
  const home = { workspaceId: workspace.id, reader, currency: workspace.currency };
  return (
    <FarmPage>
      <h1>Seed lots</h1>
      <Waiting query={lots} />
      {lots.data && <LotList home={home} lots={lots.data} crop="winter_wheat" writable={may(workspace, "design")} />}
    </FarmPage>
  );
}

export const MachinesPage = () => (
  <FarmPage>
    <Machines />
  </FarmPage>
);
export const PricesPage = () => (
  <FarmPage>
    <PriceLists />
  </FarmPage>
);
export const WeatherPage = () => (
  <FarmPage>
    <Weather />
  </FarmPage>
);
export const StandInsPage = () => (
  <FarmPage>
    <StandIns />
  </FarmPage>
);

import type { ReactNode } from "react";
import { useMachines, useSeedLots } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { may } from "../../app/rights";
import { useReaderUnits } from "../../ui/readerUnits";
import { Waiting } from "../../ui/Waiting";
import { LotList } from "../seedlots/LotList";
import { Machines } from "./Machines";
import { Merge } from "./Merge";
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
      <Merge
        what="lot"
        title="Merge a lot entered twice"
        choices={(lots.data ?? []).map((lot) => [lot.id, `${lot.crop_name}, ${lot.title}`])}
      />
    </FarmPage>
  );
}

export function MachinesPage() {
  const { workspace } = useHere();
  const machines = useMachines(workspace.id);
  return (
    <FarmPage>
      <Machines />
      <Merge
        what="machine"
        title="Merge a machine entered twice"
        choices={(machines.data ?? []).map((machine) => [machine.id, machine.name])}
      />
    </FarmPage>
  );
}
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

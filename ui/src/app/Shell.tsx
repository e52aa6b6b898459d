import { lazy, Suspense, useState } from "react";
import { NavLink, Outlet } from "react-router";

import { Button } from "../parts/Button";
import { Modal } from "../parts/Modal";
import { Loading } from "../parts/Notes";
import { Progress } from "../parts/Progress";
import { plural, roughly } from "../parts/format";
import { useActivity } from "./activity";
import { Palette } from "./Palette";
import { useShortcuts } from "./shortcuts";
import { toggleTheme, useTheme } from "./theme";
import { useRun } from "./useRun";

const ShortcutSheet = lazy(() => import("./ShortcutSheet"));
const StorageSheet = lazy(() => import("./StorageSheet"));

/** The frame around every view: name, places to go, what is being done. */
export function Shell() {
  const [paletteOpen, setPaletteOpen] = useState(false);
  const [helpOpen, setHelpOpen] = useState(false);
  const [storageOpen, setStorageOpen] = useState(false);
  const theme = useTheme();
  useShortcuts({
    "mod+k": () => setPaletteOpen(true),
    "?": () => setHelpOpen(true),
    t: toggleTheme,
  });
  return (
    <div className="flex h-full flex-col">
      <header className="flex h-11 shrink-0 items-center gap-6 border-b border-rule-strong bg-sheet px-4">
        <NavLink to="/" className="text-lg font-bold tracking-tight">
          Plindro
        </NavLink>
        <nav aria-label="Main" className="flex h-full gap-1">
          <Place to="/" label="Yard" />
          <Place to="/textures" label="Textures" />
          <Place to="/lines" label="Lines" />
          <Place to="/destinations" label="Destinations" />
          <Place to="/shipments" label="Shipments" />
          <Place to="/engine" label="Engine" />
        </nav>
        <Work />
        <div className="ml-auto flex items-center gap-2">
          <Button kind="quiet" onClick={() => setPaletteOpen(true)}>
            Find <kbd className="figure rounded border border-rule px-1 text-sm">Ctrl K</kbd>
          </Button>
          <Button kind="quiet" onClick={() => setStorageOpen(true)}>
            Storage
          </Button>
          <Button kind="quiet" aria-label="Shortcuts" onClick={() => setHelpOpen(true)}>
            ?
          </Button>
          <Button kind="quiet" onClick={toggleTheme}>
            {theme === "night" ? "Light" : "Dark"}
          </Button>
        </div>
      </header>
      <main className="min-h-0 grow">
        <Outlet />
      </main>
      <Palette
        open={paletteOpen}
        onOpenChange={setPaletteOpen}
        onHelp={() => setHelpOpen(true)}
        onStorage={() => setStorageOpen(true)}
      />
      <Modal open={storageOpen} onOpenChange={setStorageOpen} title="Storage">
        <Suspense fallback={<Loading what="the store" />}>
          <StorageSheet />
        </Suspense>
      </Modal>
      <Modal open={helpOpen} onOpenChange={setHelpOpen} title="Shortcuts">
        <Suspense fallback={<Loading what="the shortcuts" />}>
          <ShortcutSheet />
        </Suspense>
      </Modal>
    </div>
  );
}

function Place({ to, label }: { to: string; label: string }) {
  return (
    <NavLink
      to={to}
      end={to === "/"}
      className={({ isActive }) =>
        `flex h-full items-center border-b-2 px-2 font-medium ${isActive ? "border-mark text-ink" : "border-transparent text-quiet hover:text-ink"}`
      }
    >
      {label}
    </NavLink>
  );
}

/** What the server does right now, in one line. */
function Work() {
  const { jobs, connected } = useActivity();
  const run = useRun(jobs);
  if (!connected) {
    return (
      <p role="alert" className="text-stop">
        connection lost; start the server again with ./plindro demo
      </p>
    );
  }
  if (!jobs.length || !run) return null;
  const doing = jobs.find((job) => job.state === "running")?.doing || "waiting";
  const left = run.left === null ? "" : `${roughly(run.left)} left · `;
  return (
    <div className="w-72 text-sm text-quiet" aria-live="polite">
      <div className="truncate">
        {plural(jobs.length, "job")} · {left}
        {doing}
      </div>
      <Progress label="work in progress" fraction={run.fraction} />
    </div>
  );
}

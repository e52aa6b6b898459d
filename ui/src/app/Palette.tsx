import { useQuery } from "@tanstack/react-query";
import { Command } from "cmdk";
import { useNavigate } from "react-router";

import { projectQuery, propsQuery } from "../api/queries";
import { short } from "../parts/format";
import { toggleTheme } from "./theme";
import { useGrowRock } from "../views/yard/rock";

interface PaletteProps {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  onHelp: () => void;
  onStorage: () => void;
}

const ITEM = "flex cursor-pointer items-center justify-between rounded px-2 py-1.5 data-[selected=true]:bg-mark-tint";

/** Find a prop or a command by typing. */
export function Palette({ open, onOpenChange, onHelp, onStorage }: PaletteProps) {
  const navigate = useNavigate();
  const growRock = useGrowRock();
  const { data: props = [] } = useQuery(propsQuery);
  const { data: project } = useQuery(projectQuery);
  const run = (act: () => void) => () => {
    onOpenChange(false);
    act();
  };
  return (
    <Command.Dialog
      open={open}
      onOpenChange={onOpenChange}
      label="Find a prop or a command"
      overlayClassName="fixed inset-0 z-40 bg-ink/30"
      contentClassName="fixed top-[14vh] left-1/2 z-50 w-[min(560px,92vw)] -translate-x-1/2 overflow-hidden rounded border border-rule-strong bg-sheet"
    >
      <Command.Input
        placeholder="Find a prop or a command"
        className="w-full border-b border-rule bg-transparent px-4 py-3 text-lg outline-none placeholder:text-quiet"
      />
      <Command.List className="max-h-[50vh] overflow-auto p-2 [&_[cmdk-group-heading]]:px-2 [&_[cmdk-group-heading]]:py-1 [&_[cmdk-group-heading]]:text-sm [&_[cmdk-group-heading]]:text-quiet">
        <Command.Empty className="p-3 text-quiet">nothing of that name</Command.Empty>
        <Command.Group heading="Props">
          {props.map((prop) => (
            <Command.Item
              key={prop.id}
              value={`prop ${prop.name}`}
              onSelect={run(() => void navigate(`/props/${prop.id}`))}
              className={ITEM}
            >
              <span>{prop.name}</span>
              <span className="figure text-quiet">
                {prop.triangles === null ? "" : `${short(prop.triangles)} tris`}
              </span>
            </Command.Item>
          ))}
        </Command.Group>
        <Command.Group heading="Commands">
          <Command.Item onSelect={run(() => void navigate("/"))} className={ITEM}>
            Go to the Yard
          </Command.Item>
          <Command.Item onSelect={run(() => void navigate("/textures"))} className={ITEM}>
            Go to the textures
          </Command.Item>
          <Command.Item onSelect={run(() => void navigate("/lines"))} className={ITEM}>
            Go to the lines
          </Command.Item>
          <Command.Item onSelect={run(() => void navigate("/destinations"))} className={ITEM}>
            Go to the destinations
          </Command.Item>
          <Command.Item onSelect={run(() => void navigate("/shipments"))} className={ITEM}>
            Go to the shipments
          </Command.Item>
          <Command.Item
            onSelect={run(() => void navigate(`/shipments/new?ids=${props.map((p) => p.id).join(",")}`))}
            className={ITEM}
          >
            Ship all props
          </Command.Item>
          {project?.has_demo && (
            <Command.Item onSelect={run(growRock)} className={ITEM}>
              Grow the skerry rock, a scan of a million triangles
            </Command.Item>
          )}
          <Command.Item onSelect={run(toggleTheme)} className={ITEM}>
            Switch between light and dark
          </Command.Item>
          <Command.Item onSelect={run(onStorage)} className={ITEM}>
            Show what fills the disk
          </Command.Item>
          <Command.Item onSelect={run(onHelp)} className={ITEM}>
            Show the shortcuts
          </Command.Item>
        </Command.Group>
      </Command.List>
    </Command.Dialog>
  );
}

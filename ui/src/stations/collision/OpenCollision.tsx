import { useState } from "react";

import { useShortcuts } from "../../app/shortcuts";
import { Button } from "../../parts/Button";
import { places, useBench, useLevelsShown } from "../bench";
import { CollisionSettings } from "./CollisionSettings";
import { DrawnProxies } from "./DrawnProxies";
import { Play } from "./Play";
import { ProxyTable } from "./ProxyTable";
import { usePlay } from "./usePlay";

/** The proxies over the prop, what they stop, and how they fit. */
export function OpenCollision() {
  const { prop, decide, model, eye } = useBench();
  const [selected, setSelected] = useState<number | null>(null);
  const [isShown, setShown] = useState(true);
  const play = usePlay(model);
  const drop = () => play.drop();
  const push = () => play.push(eye);
  useShortcuts({ b: drop, w: push }, { first: true });
  useLevelsShown();
  const hasProxies = (model?.proxies.length ?? 0) > 0;
  return (
    <>
      <places.settings.In>
        <CollisionSettings prop={prop} decide={decide} />
      </places.settings.In>
      <places.evidence.In>
        <ProxyTable prop={prop} selected={selected} onSelect={setSelected} />
      </places.evidence.In>
      {model && isShown && (
        <places.drawn.In>
          <DrawnProxies proxies={model.proxies} selected={selected} />
        </places.drawn.In>
      )}
      {model && play.world && (
        <places.drawn.In>
          <Play world={play.world} onSaid={play.setSaid} />
        </places.drawn.In>
      )}
      {hasProxies && (
        <places.tools.In>
          <Button pressed={isShown} onClick={() => setShown(!isShown)} title="draw the collision over the prop">
            Collision
          </Button>
          <Button onClick={drop} title="drop a ball on it (B)" disabled={play.isLoading}>
            Drop a ball
          </Button>
          <Button
            onClick={push}
            title="push a walker of 1.8 m against it, from where you look (W)"
            disabled={play.isLoading}
          >
            Push a walker
          </Button>
          {play.world && (
            <Button kind="quiet" onClick={play.clear}>
              Clear
            </Button>
          )}
        </places.tools.In>
      )}
      {play.said && (
        <places.overlay.In>
          <p
            role="status"
            className="absolute top-4 right-4 max-w-72 rounded border border-rule bg-sheet/95 px-3 py-2 text-sm"
          >
            {play.said}
          </p>
        </places.overlay.In>
      )}
    </>
  );
}

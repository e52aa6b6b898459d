"""Two browsers decide about one prop in turns: nobody's decision goes under without a word."""

import json
import urllib.error
import urllib.request
from typing import Any

from benchmarks.trust.watched import PROPS, Watched, watched


def two_browsers(rounds: int) -> list[str]:
    """Ann and Bob decide the same setting in view of the same version, ten times a round."""
    wrong = []
    with watched() as server:
        prop = server.props[PROPS[0]]
        for number in range(10 * rounds):
            version = server.api(f"props/{prop}")["version"]
            first = _decide(server, prop, "ann", version, 20.0 + number)
            second = _decide(server, prop, "bob", version, 50.0 + number)
            if (first[0], second[0]) != (200, 409):
                wrong.append(f"answers {first[0]} and {second[0]} where 200 and 409 belong")
            elif second[1]["rows"][0]["theirs"] != f"{20 + number}":
                wrong.append(f"the refusal tells {second[1]['rows']}")
            elif _decide(server, prop, "bob", second[1]["version"], 50.0 + number)[0] != 200:
                wrong.append("a decision in view of the other's was refused")
        server.settle()
        print(f"    {10 * rounds} decisions of two at once", flush=True)
    return wrong


def _decide(server: Watched, prop: int, browser: str, version: int, angle: float) -> tuple[int, Any]:
    changes = {"normals": {"source": "angle", "angle": angle}}
    try:
        headers = {"X-Plindro-Browser": browser}
        body = {"changes": changes, "version": version}
        return 200, server.api(f"props/{prop}/settings", body, "PATCH", headers)
    except urllib.error.HTTPError as error:
        return error.code, json.load(error)

#!/usr/bin/env python3
"""Takes a plate to a delivery through the JSON API, with nothing but Python's standard library.

    true-parallax serve --plates PLATES --port 8123 &
    examples/client.py http://127.0.0.1:8123 FOLDER_BELOW_PLATES --rate 24000/1001 --recipe "3D scene" --out scene.zip

Every step is a request that docs/api.md describes; long work is queued and asked for until it has ended.
"""

import argparse
import json
import sys
import time
import urllib.error
import urllib.request


class Refused(Exception):
    """What the application answered instead, in its own words."""


def ask(base, method, path, body=None):
    """One request; the answer, JSON where it is."""
    data = None if body is None else json.dumps(body).encode()
    headers = {"content-type": "application/json"} if data else {}
    request = urllib.request.Request(base + path, data=data, headers=headers, method=method)
    try:
        with urllib.request.urlopen(request) as answer:
            kind, content = answer.headers.get_content_type(), answer.read()
    except urllib.error.HTTPError as error:
        raise Refused(error.read().decode(errors="replace")) from None
    return json.loads(content) if kind == "application/json" else content


def settled(base, shot):
    """The shot when no work waits or runs; what failed is an error."""
    while True:
        view = ask(base, "GET", f"/api/shots/{shot}")
        if not any(job["state"] in ("queued", "running") for job in view["jobs"]):
            break
        time.sleep(0.2)
    if view["jobs"] and view["jobs"][0]["state"] == "failed":
        raise Refused(view["jobs"][0]["message"])
    return view


def work(base, shot, **job):
    """Queues work and waits for its end."""
    ask(base, "POST", f"/api/shots/{shot}/jobs", job)
    return settled(base, shot)


def main():
    line = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    line.add_argument("base", help="address of the application, such as http://127.0.0.1:8123")
    line.add_argument("folder", help="folder or movie below the folder of plates")
    line.add_argument("--rate", required=True, help="frames a second, exact, such as 24000/1001")
    line.add_argument("--recipe", default="3D scene", help="name of the recipe")
    line.add_argument("--out", required=True, help="file that the package is written to")
    asked = line.parse_args()
    base = asked.base.rstrip("/")

    shot = ask(base, "POST", "/api/shots", {"folder": asked.folder})["shot"]
    settled(base, shot)
    ask(base, "POST", f"/api/shots/{shot}/edits", {"label": "state the rate", "patch": {"rate": asked.rate}})
    work(base, shot, kind="track")
    view = work(base, shot, kind="solve")
    recipes = {recipe["name"]: recipe["id"] for recipe in view["state"]["recipes"]}
    if asked.recipe not in recipes:
        raise Refused(f"there is no recipe {asked.recipe!r}; there are {', '.join(recipes)}")
    view = work(base, shot, kind="deliver", recipe=recipes[asked.recipe])
    made = next(r["made"] for r in view["recipes"] if r["id"] == recipes[asked.recipe])
    package = ask(base, "GET", f"/api/shots/{shot}/deliveries/{made['delivery']}")
    with open(asked.out, "wb") as out:
        out.write(package)
    receipt = made["receipt"]
    print(json.dumps({
        "shot": shot, "package": made["name"], "rms_px": view["solve"]["rms_px"],
        "files_agree": receipt["files_agree"], "camera": receipt["camera"], "assumptions": receipt["assumptions"],
    }, indent=2))
    return 0 if receipt["files_agree"] else 1


if __name__ == "__main__":
    try:
        sys.exit(main())
    except Refused as refused:
        sys.exit(f"refused: {refused}")

"""Reads deliveries with the reference tools of the formats and holds them against the neutral camera.

    check.py VALIDATOR FOLDER...

Each folder is one delivery with its neutral camera (`*camera*.json`), which states the truth: where every landmark is
drawn on every frame, undistorted. OpenUSD files are read by OpenUSD's own library and checked by its checker, glTF files
by the validator of its authors (VALIDATOR is a script for node that runs it) and, with meshes and points, by trimesh.
Prints one line of JSON per file; whatever is an error, a warning or too large a difference is listed there.
"""

import csv
import glob
import json
import os
import subprocess
import sys
from urllib.parse import unquote

import numpy as np
import trimesh
from pxr import Usd, UsdGeom, UsdShade, UsdValidation


def truth(folder):
    (path,) = glob.glob(os.path.join(folder, "*camera*.json"))
    camera = json.load(open(path))
    axes = camera["axes"]
    left, up = axes["hand"] == "left", axes["up"]
    units = axes.get("scale", 1.0) / {
        "metre": 1.0, "decimetre": 0.1, "centimetre": 0.01, "millimetre": 0.001, "inch": 0.0254, "foot": 0.3048,
    }[axes.get("unit", "metre")]

    def ours(v):
        x, y, z = v[..., 0], v[..., 1], v[..., 2]
        turned = {
            ("y", False): (x, y, z), ("y", True): (x, y, -z), ("z", False): (x, z, -y), ("z", True): (x, z, y),
        }[(up, left)]
        return np.stack(turned, -1)

    points = {p["name"]: ours(np.array(p["xyz"], float)) / units for p in camera["points"]}
    frames = {}
    for frame in camera["frames"]:
        m = np.array(frame["world_from_camera"], float).reshape(4, 4)
        flip = np.diag([1.0, 1.0, -1.0 if left else 1.0])
        axes_of = ours((m[:3, :3] @ flip).T).T
        frames[frame["frame"]] = (axes_of, ours(m[:3, 3]) / units, frame["focal_px"], (frame["cx"], frame["cy"]))
    bodies = {}
    for body in camera.get("bodies", []):
        own = np.array([p["xyz"] + [1.0] for p in body["points"]])
        for frame in body["frames"]:
            there = np.array(frame["world_from_body"], float).reshape(4, 4)
            bodies[body["name"], frame["frame"]] = ours((own @ there.T)[:, :3]) / units
    return {"points": points, "bodies": bodies, "frames": frames, "size": (camera["width"], camera["height"]), "fps": camera["fps"],
            "axes": axes, "units": units, "in_ours": ours}


def drawn(view, points):
    """px of points, and which of them are near the picture."""
    turn, place, focal, centre = view
    own = (points - place) @ turn
    ahead = own[:, 2] < -1e-9
    depth = np.where(ahead, -own[:, 2], 1.0)
    px = np.stack([centre[0] + focal * own[:, 0] / depth, centre[1] - focal * own[:, 1] / depth], -1)
    return px, ahead


def apart(known, frame, view, points):
    """Largest distance in px between the truth and what a file draws of the same points."""
    names = list(known["points"])
    if not names:
        return 0.0
    want, ahead = drawn(known["frames"][frame], np.array([known["points"][n] for n in names]))
    got, _ = drawn(view, np.array([points[n] for n in names]))
    w, h = known["size"]
    near = ahead & (want[:, 0] > -w) & (want[:, 0] < 2 * w) & (want[:, 1] > -h) & (want[:, 1] < 2 * h)
    return float(np.abs(got - want)[near].max()) if near.any() else 0.0


def bodies_off(known, frame, found):
    """Largest distance in m between the landmarks of bodies and what a file says of them on a frame."""
    want = {name: at for (name, f), at in known["bodies"].items() if f == frame}
    if sorted(want) != sorted(found):
        return float("inf")
    return max((float(np.abs(want[n] - found[n]).max()) for n in want), default=0.0)


def usd(path, known):
    said = validated(path)
    stage = Usd.Stage.Open(path)
    up_z = UsdGeom.GetStageUpAxis(stage) == "Z"
    units = UsdGeom.GetStageMetersPerUnit(stage)
    scale = stage.GetRootLayer().customLayerData["worldScale"] / units
    camera = next(p for p in stage.Traverse() if p.IsA(UsdGeom.Camera))
    points = {}
    for prim in stage.Traverse():
        if prim.IsA(UsdGeom.Points) and prim.GetParent().GetName() == "landmarks":
            names = prim.GetAttribute("names").Get()
            for name, at in zip(names, UsdGeom.Points(prim).GetPointsAttr().Get()):
                x, y, z = (float(v) / scale for v in at)
                points[name] = np.array([x, z, -y] if up_z else [x, y, z])
    first = min(known["frames"])
    codes = stage.GetTimeCodesPerSecond() / stage.GetFramesPerSecond()
    begins = stage.GetStartTimeCode()
    w, h = known["size"]
    largest, astray = 0.0, 0.0
    bodies = [p for p in stage.Traverse() if p.IsA(UsdGeom.Points) and p.GetParent().GetParent().GetName() == "bodies"]
    for frame in known["frames"]:
        time = begins + (frame - first) * codes
        found = {}
        for prim in bodies:
            there = np.array(UsdGeom.Xformable(prim).ComputeLocalToWorldTransform(time))
            own = np.array([list(p) + [1.0] for p in UsdGeom.Points(prim).GetPointsAttr().Get()], float)
            x, y, z = (own @ there)[:, :3].T / scale
            named = prim.GetParent().GetAttribute("label").Get()
            found[named] = np.stack([x, z, -y] if up_z else [x, y, z], -1)
        astray = max(astray, bodies_off(known, frame, found))
        gf = UsdGeom.Camera(camera).GetCamera(time)
        m = np.array(gf.transform)
        turn = m[:3, :3].T
        place = m[3, :3] / scale
        if up_z:
            swap = np.array([[1, 0, 0], [0, 0, 1], [0, -1, 0]], float)
            turn, place = swap @ turn, swap @ place
        px_per_mm = w / gf.horizontalAperture
        centre = (w / 2 - gf.horizontalApertureOffset * px_per_mm, h / 2 + gf.verticalApertureOffset * px_per_mm)
        view = (turn, place, gf.focalLength * px_per_mm, centre)
        if set(points) == set(known["points"]):
            largest = max(largest, apart(known, frame, view, points))
        elif points:
            said.append("landmarks have other names")
            break
        else:
            largest = max(largest, apart(known, frame, view, known["points"]))
    num, den = (known["fps"].split("/") + ["1"])[:2]
    if abs(stage.GetFramesPerSecond() - int(num) / int(den)) > 1e-9:
        said.append("the rate is another")
    guests = 0
    for prim in stage.Traverse():
        if prim.IsA(UsdGeom.Mesh):
            guests += 1
            bound = UsdShade.MaterialBindingAPI(prim).ComputeBoundMaterial()[0]
            subsets = UsdGeom.Subset.GetAllGeomSubsets(UsdGeom.Imageable(prim))
            if not bound and not subsets:
                said.append(f"{prim.GetPath()} has no material")
            for shader in (p for p in Usd.PrimRange(prim.GetParent()) if p.IsA(UsdShade.Shader)):
                file = UsdShade.Shader(shader).GetInput("file")
                if file and not file.Get().resolvedPath:
                    said.append(f"{file.Get().path} does not resolve")
    first_frame = camera.GetAttribute("plate:firstFrame")
    if first_frame and not first_frame.Get().resolvedPath:
        said.append("the plate does not resolve")
    if astray > 1e-5:
        said.append(f"bodies lie {astray} m elsewhere")
    return {"largest_px": largest, "said": said, "guests": guests, "bodies": len(bodies)}


def validated(path):
    """What OpenUSD's own validators say, all of them."""
    registry = UsdValidation.ValidationRegistry()
    context = UsdValidation.ValidationContext(registry.GetOrLoadAllValidators())
    found = context.Validate(Usd.Stage.Open(path))
    return [f"{e.GetType()} {e.GetName()}: {e.GetMessage()}" for e in found]


def gltf(path, known, validator):
    report = json.loads(subprocess.run(["node", validator, path], check=True, capture_output=True, text=True).stdout)
    issues = report["issues"]
    said = [f"{m['code']}: {m['message']}" for m in issues["messages"] if m["severity"] <= 1]
    if issues["numErrors"] or issues["numWarnings"]:
        said.append(f"{issues['numErrors']} errors, {issues['numWarnings']} warnings")
    scene = trimesh.load(path)
    scale = known["axes"].get("scale", 1.0)
    points = {}
    for name in known["points"]:
        if name in scene.graph.nodes:
            points[name] = np.array(scene.graph.get(name)[0])[:3, 3] / scale
    w, h = known["size"]
    first = min(known["frames"])
    m = np.array(scene.graph.get("camera")[0])
    focal = known["frames"][first][2]
    view = (m[:3, :3], m[:3, 3] / scale, focal, known["frames"][first][3])
    if points and len(points) != len(known["points"]):
        said.append("landmarks are missing")
        return {"largest_px": None, "said": said}
    largest, astray, bodies = moving(path, known)
    if astray > 1e-5:
        said.append(f"bodies lie {astray} m elsewhere")
    return {"largest_px": max(largest, apart(known, first, view, points or known["points"])), "said": said,
            "guests": len(scene.geometry), "bodies": bodies}


def animated(path):
    """The nodes of a glTF file, and matrices from each to the world, a frame each."""
    data = open(path, "rb").read()
    if path.endswith(".glb"):
        length = int.from_bytes(data[12:16], "little")
        doc, blob = json.loads(data[20:20 + length]), data[28 + length:]
    else:
        doc = json.loads(data)
        blob = open(os.path.join(os.path.dirname(path), unquote(doc["buffers"][0]["uri"])), "rb").read()

    def values(index):
        accessor = doc["accessors"][index]
        view = doc["bufferViews"][accessor["bufferView"]]
        wide = {"SCALAR": 1, "VEC3": 3, "VEC4": 4}[accessor["type"]]
        begins = view.get("byteOffset", 0) + accessor.get("byteOffset", 0)
        return np.frombuffer(blob, "<f4", accessor["count"] * wide, begins).reshape(-1, wide).astype(float)

    paths = {}
    for motion in doc.get("animations", []):
        for channel in motion["channels"]:
            sampler = motion["samplers"][channel["sampler"]]
            paths[channel["target"]["node"], channel["target"]["path"]] = values(sampler["output"])
    parents = {child: k for k, node in enumerate(doc["nodes"]) for child in node.get("children", [])}

    def own(k, frame):
        usual = {"translation": [0.0] * 3, "rotation": [0.0, 0.0, 0.0, 1.0], "scale": [1.0] * 3}
        node = doc["nodes"][k]
        at = {w: paths[k, w][frame] if (k, w) in paths else np.array(node.get(w, usual[w]), float) for w in usual}
        x, y, z, w = at["rotation"] / np.linalg.norm(at["rotation"])
        turn = np.array([
            [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
            [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
            [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
        ])
        m = np.eye(4)
        m[:3, :3], m[:3, 3] = turn * at["scale"], at["translation"]
        return m

    def world(k, frame):
        m = own(k, frame)
        return world(parents[k], frame) @ m if k in parents else m

    return doc["nodes"], world


def moving(path, known):
    """Largest distance in px of landmarks through the camera of every frame, in m of those of bodies."""
    nodes, world = animated(path)
    scale = known["axes"].get("scale", 1.0)
    camera = next(k for k, node in enumerate(nodes) if "camera" in node)
    group = next((node for node in nodes if node.get("name") == "bodies" and "camera" not in node), {})
    largest, astray = 0.0, 0.0
    for k, (frame, view) in enumerate(sorted(known["frames"].items())):
        m = world(camera, k)
        largest = max(largest, apart(known, frame, (m[:3, :3], m[:3, 3] / scale, view[2], view[3]), known["points"]))
        found = {}
        for body in group.get("children", []):
            places = [world(p, k)[:3, 3] / scale for p in nodes[body]["children"]]
            found[nodes[body]["name"]] = np.array(places)
        astray = max(astray, bodies_off(known, frame, found))
    return largest, astray, len(group.get("children", []))


def mesh(path, known):
    loaded = trimesh.load(path, process=False)
    meshes = loaded.dump() if isinstance(loaded, trimesh.Scene) else [loaded]
    corners = np.concatenate([np.asarray(m.vertices, float) for m in meshes])
    triangles = [np.asarray(m.vertices)[m.faces] - corners.mean(0) for m in meshes if hasattr(m, "faces")]
    said = [] if np.isfinite(corners).all() else ["corners are no numbers"]
    ours = known["in_ours"](corners) / known["units"]
    result = {"said": said, "corners": len(corners), "low": ours.min(0).tolist(), "high": ours.max(0).tolist()}
    if os.path.basename(path).endswith(".ply") and "landmarks" in path:
        want = np.array(list(known["points"].values()))
        result["largest_m"] = float(np.abs(ours - want).max()) if len(want) == len(ours) else None
        if len(want) != len(ours):
            said.append("landmarks are missing")
    elif sum(np.einsum("ij,ij->i", t[:, 0], np.cross(t[:, 1], t[:, 2])).sum() for t in triangles) < 0:
        said.append("triangles are turned inside out")
    return result


def table(path, known):
    rows = list(csv.DictReader(line for line in open(path) if not line.startswith("#")))
    if len(rows) != len(known["frames"]):
        return {"said": ["frames are missing"]}
    largest = 0.0
    for row in rows:
        m = np.array([[float(row[f"m{i}{j}"]) for j in range(3)] for i in range(3)])
        left = known["axes"]["hand"] == "left"
        m = m @ np.diag([1.0, 1.0, -1.0 if left else 1.0])
        place = np.array([float(row[k]) for k in "xyz"])
        view = (known["in_ours"](m.T).T, known["in_ours"](place) / known["units"], float(row["focal_px"]),
                (float(row["centre_x"]), float(row["centre_y"])))
        largest = max(largest, apart(known, int(row["frame"]), view, known["points"]))
    return {"largest_px": largest, "said": []}


def read(kind, path, known, validator):
    if kind in ("usda", "usdz"):
        return usd(path, known)
    if kind in ("gltf", "glb"):
        return gltf(path, known, validator)
    if kind in ("obj", "ply"):
        return mesh(path, known)
    if kind == "csv" and "camera" in os.path.basename(path):
        return table(path, known)
    return None


def main():
    validator, folders = sys.argv[1], sys.argv[2:]
    for folder in folders:
        known = truth(folder)
        for path in sorted(glob.glob(os.path.join(folder, "*"))):
            kind = path.rsplit(".", 1)[-1]
            try:
                result = read(kind, path, known, validator)
            except Exception as error:  # what a reader cannot read is a finding, not the end
                result = {"said": [f"cannot be read: {error}"]}
            if result is None:
                continue
            print(json.dumps({"file": path, **result}))


main()

"""Reads what `dustcoat export` wrote by other implementations: MaterialX, USD and OpenEXR from PyPI. Run by `make validate`, which gives the folder.

Each export is written once more in other formats, and the numbers must agree: half floats and TIFF within a step of the full floats, colours after their encoding.
"""

import json
import pathlib
import struct
import subprocess
import sys
import zlib

import MaterialX
import numpy as np
import OpenEXR
from pxr import Usd, UsdGeom, UsdShade, UsdValidation

FOLDER = pathlib.Path(sys.argv[1])
FAILED = []


def check(what, holds, said=""):
    print(("ok      " if holds else "FAILED  ") + what + (f": {said}" if said and not holds else ""))
    if not holds:
        FAILED.append(what)


def materialx(path):
    library = MaterialX.createDocument()
    MaterialX.loadLibraries(MaterialX.getDefaultDataLibraryFolders(), MaterialX.getDefaultDataSearchPath(), library)
    document = MaterialX.createDocument()
    MaterialX.readFromXmlFile(document, str(path))
    document.setDataLibrary(library)
    valid, said = document.validate()
    check(f"MaterialX takes {path.name}", valid, said)
    graphs = [g for g in document.getNodeGraphs() if g.getName().endswith("_pictures")]
    for node in [n for g in graphs for n in g.getNodes()] + document.getNodes():
        check(f"  {node.getCategory()} “{node.getName()}” is one that there is", node.getNodeDef() is not None)
    check("  it has a material", len(document.getMaterialNodes()) > 0)
    files = {i.getValueString() for g in graphs for n in g.getNodes() for i in n.getInputs() if i.getType() == "filename"}
    found = [list(path.parent.glob(f.replace("<UDIM>", "1???"))) for f in files]
    check("  its pictures are there", files and all(found), str(files))


def usd(path):
    stage = Usd.Stage.Open(str(path))
    context = UsdValidation.ValidationContext(UsdValidation.ValidationRegistry().GetOrLoadAllValidators())
    # The check of normal maps doesn't know UDIM, which USD itself resolves: these are looked up below.
    said = [f"{e.GetName()}: {e.GetMessage()}" for e in context.Validate(stage) if "<UDIM>" not in e.GetMessage()]
    check(f"USD takes {path.name} without a word", not said, "; ".join(said))
    meshes = [p for p in stage.Traverse() if p.IsA(UsdGeom.Mesh)]
    check("  it holds one mesh", len(meshes) == 1)
    mesh = UsdGeom.Mesh(meshes[0])
    valid, why = UsdGeom.Subset.ValidateFamily(mesh, UsdGeom.Tokens.face, UsdShade.Tokens.materialBind)
    check("  its parts are each face once", valid, why)
    check("  its numbers are in millimetres", UsdGeom.GetStageMetersPerUnit(stage) == 0.001)
    named = [p.GetAttribute("inputs:file").Get() for p in stage.Traverse() if p.GetAttribute("inputs:file")]
    layer, tiles = stage.GetRootLayer(), UsdShade.UdimUtils.ResolveUdimTilePaths
    there = [bool(n.resolvedPath) or len(tiles(n.path, layer)) > 1 for n in named]
    check("  its pictures are there", named and all(there), str(named))
    for subset in UsdGeom.Subset.GetAllGeomSubsets(mesh):
        bound = UsdShade.MaterialBindingAPI(subset.GetPrim()).ComputeBoundMaterial()[0]
        check(f"  {subset.GetPrim().GetName()} has a material", bool(bound) and bool(bound.ComputeSurfaceSource()[0]))


def png(path):
    """A PNG of 8 or 16 bits without interlace, as numbers 0 to 1."""
    data = path.read_bytes()
    at, packed, width, height, depth, color = 8, b"", 0, 0, 0, 0
    while at < len(data):
        length, kind = struct.unpack(">I4s", data[at : at + 8])
        body = data[at + 8 : at + 8 + length]
        if kind == b"IHDR":
            width, height, depth, color = struct.unpack(">IIBB", body[:10])
        packed += body if kind == b"IDAT" else b""
        at += 12 + length
    count = {0: 1, 2: 3, 4: 2, 6: 4}[color]
    stride, texel = width * count * depth // 8, count * depth // 8
    raw, rows, before = zlib.decompress(packed), [], np.zeros(stride, np.uint8)
    for y in range(height):
        filtering, line = raw[y * (stride + 1)], np.frombuffer(raw[y * (stride + 1) + 1 : (y + 1) * (stride + 1)], np.uint8)
        line = unfiltered(filtering, line, before, texel)
        rows.append(line)
        before = line
    numbers = np.concatenate(rows).view(">u2" if depth == 16 else np.uint8).reshape(height, width, count)
    return numbers.astype(np.float64) / (2**depth - 1)


def unfiltered(filtering, line, before, texel):
    if filtering == 0:
        return line
    if filtering == 2:
        return line + before
    out = np.zeros(len(line) + texel, np.int64)
    above = np.concatenate([np.zeros(texel, np.int64), before.astype(np.int64)])
    for i, v in enumerate(line.tolist()):
        left, up, corner = out[i], above[i + texel], above[i]
        if filtering == 1:
            guess = left
        elif filtering == 3:
            guess = (left + up) // 2
        else:
            p = left + up - corner
            guess = min((left, up, corner), key=lambda c: (abs(p - c), (left, up, corner).index(c) if c != left else -1))
        out[i + texel] = (v + guess) % 256
    return out[texel:].astype(np.uint8)


def exr(path):
    with OpenEXR.File(str(path)) as file:
        channels = file.channels()
        if len(channels) == 1:
            only = next(iter(channels.values())).pixels
            return (only if only.ndim == 3 else only[..., None]).astype(np.float64)
        return np.stack([channels[c].pixels for c in "RGBA" if c in channels], -1).astype(np.float64)


def encoded(v):
    v = np.clip(v, 0, 1)
    return np.where(v <= 0.0031308, v * 12.92, 1.055 * np.power(v, 1 / 2.4) - 0.055)


def same(folder):
    """Pictures of one layout, written as PNG and as EXR, by its manifest."""
    manifest = json.loads(next(folder.glob("*_manifest.json")).read_text())
    pngs = [f for f in manifest["files"] if f["name"].endswith(".png")]
    check(f"{folder.name} has pictures", len(pngs) > 2)
    for file in pngs:
        half = folder / file["name"].replace(".png", ".exr")
        if not half.is_file():
            continue
        whole, floats = png(folder / file["name"]), exr(half)
        worst = 0.0
        for c, channel in enumerate(file["channels"]):
            low, high = channel["range"]
            # What is inverted is so in floats as well, where no range says it.
            numbers = low + high - floats[..., c] if low > high else floats[..., c]
            want = (numbers - low) / (high - low)
            want = encoded(want) if channel["encoding"] == "srgb" else np.clip(want, 0, 1)
            worst = max(worst, float(np.abs(want - whole[..., c]).max()))
        # Half a step of the whole numbers, and what half floats lose.
        most = 0.51 / (2 ** file["bits"] - 1) + 0.0015
        check(f"  {file['name']} is the EXR", worst <= most, f"{worst} of {most}")


for folder in sorted(p for p in FOLDER.iterdir() if p.is_dir()):
    for path in sorted(folder.glob("*.mtlx")):
        materialx(path)
    for path in sorted(folder.glob("*.usda")):
        usd(path)
    if list(folder.glob("*.exr")):
        same(folder)
print(f"{len(FAILED)} failed")
sys.exit(bool(FAILED))

"""Weights in half precision, and two networks that hear together as one file.

    python -m training.ensemble FIRST [SECOND] [--share .55]    writes orchesis/hearing/onset_model.onnx
    python -m training.ensemble --apart      takes it apart: training/onset-model-next-first.onnx, onset-model-next.onnx

FIRST, SECOND: exported onset models, in either precision (SECOND: training/onset-model-next.onnx, which `python -m
training` writes). share: of the second.
"""

from __future__ import annotations

import argparse
import tempfile
from pathlib import Path
from typing import Any

import numpy as np

ROOT = Path(__file__).resolve().parent.parent
OUT = ROOT / "orchesis" / "hearing" / "onset_model.onnx"
#: What the stages of training end with, in half precision.
NEXT = ROOT / "training" / "onset-model-next.onnx"
#: The first network where the shipped file was taken apart.
FIRST = NEXT.with_name("onset-model-next-first.onnx")
#: Of the second network; .6 is as good on the tuning kits (training/CARD.md).
_SHARE = 0.55


def halved(path: Path, out: Path) -> None:
    """Writes an exported network's weights in half precision: to be kept and restored from, not run."""
    import onnx
    from onnx import numpy_helper

    model = onnx.load(str(path))
    for value in model.graph.initializer:
        array = numpy_helper.to_array(value)
        if array.dtype.kind == "f":
            value.CopyFrom(numpy_helper.from_array(array.astype("float16"), value.name))
    onnx.save(model, str(out))


def packed(path: Path, out: Path) -> None:
    """Writes an exported network with its weights in half precision, to be run: each is cast back
    when the network is loaded."""
    import onnx
    from onnx import helper, numpy_helper

    model = onnx.load(str(path))
    casts = []
    for value in model.graph.initializer:
        array = numpy_helper.to_array(value)
        if array.dtype.kind != "f":
            continue
        name = value.name
        value.CopyFrom(numpy_helper.from_array(array.astype("float16"), f"{name}.half"))
        casts.append(helper.make_node("Cast", [f"{name}.half"], [name], to=onnx.TensorProto.FLOAT))
    nodes = list(model.graph.node)
    del model.graph.node[:]
    model.graph.node.extend([*casts, *nodes])
    onnx.checker.check_model(model)
    onnx.save(model, str(out))


def averaged(first: Path, second: Path, out: Path) -> None:
    """Writes the mean of the weights of two exported networks, one of which went on from the other
    (Izmailov et al., "Averaging weights leads to wider optima", 2018)."""
    import onnx
    from onnx import numpy_helper

    model, other = onnx.load(str(first)), onnx.load(str(second))
    for value, beside in zip(model.graph.initializer, other.graph.initializer, strict=True):
        a, b = numpy_helper.to_array(value), numpy_helper.to_array(beside)
        if a.dtype.kind == "f":
            mean = (a.astype(np.float32) + b.astype(np.float32)) / 2
            value.CopyFrom(numpy_helper.from_array(mean.astype(a.dtype), value.name))
    onnx.save(model, str(out))


def joined(first: Path, second: Path, share: float, out: Path) -> None:
    """Writes two exported networks as one that hears with both: the weighted mean of what they give
    (before the logistic function). share: of the second.

    Networks that learned from other material err elsewhere (Hansen and Salamon, "Neural network
    ensembles", 1990).
    """
    import onnx
    from onnx import compose, helper, numpy_helper

    models = [
        compose.add_prefix(onnx.load(str(p)), f"{name}_", rename_inputs=False)
        for name, p in (("a", first), ("b", second))
    ]
    graphs = [m.graph for m in models]
    nodes = [n for g in graphs for n in g.node]
    weights = [w for g in graphs for w in g.initializer]
    for name, value in (("a_share", 1 - share), ("b_share", share)):
        weights.append(numpy_helper.from_array(np.array(value, np.float32), name))
    for output in ("heard", "mask"):
        for name in ("a", "b"):
            nodes.append(
                helper.make_node(
                    "Mul", [f"{name}_{output}", f"{name}_share"], [f"{name}_{output}_x"]
                )
            )
        nodes.append(helper.make_node("Add", [f"a_{output}_x", f"b_{output}_x"], [output]))
    source = onnx.load(str(second)).graph
    graph = helper.make_graph(
        nodes, "onset model", list(source.input), list(source.output), weights
    )
    made = helper.make_model(graph, opset_imports=models[0].opset_import)
    made.ir_version = models[0].ir_version
    onnx.checker.check_model(made)
    onnx.save(made, str(out))


def apart(path: Path, name: str, out: Path) -> None:
    """Writes one network ("a", "b") of a joined file as ``halved`` does: to go on from, or to join again."""
    import onnx
    from onnx import helper

    own = f"{name}_"
    joined_graph = onnx.load(str(path)).graph
    taken = [n for n in joined_graph.node if n.name.startswith(own) or _is_cast_of(n, own)]
    weights = [
        w for w in joined_graph.initializer if w.name.startswith(own) and w.name != f"{own}share"
    ]
    for w in weights:
        w.name = w.name.removeprefix(own).removesuffix(".half")
    nodes = [n for n in taken if not _is_cast_of(n, own)]
    for n in nodes:
        n.name = n.name.removeprefix(own)
        for side in (n.input, n.output):
            side[:] = [x.removeprefix(own) for x in side]
    graph = helper.make_graph(
        nodes, "onset model", list(joined_graph.input), list(joined_graph.output), weights
    )
    model = helper.make_model(graph, opset_imports=onnx.load(str(path)).opset_import)
    onnx.save(model, str(out))


def _is_cast_of(node: Any, own: str) -> bool:
    """Whether it makes a network's weight whole again (``packed``)."""
    return (
        node.op_type == "Cast" and node.input[0].startswith(own) and node.input[0].endswith(".half")
    )


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("first", type=Path, nargs="?", default=FIRST)
    parser.add_argument("second", type=Path, nargs="?", default=NEXT)
    parser.add_argument("--share", type=float, default=_SHARE)
    parser.add_argument("--apart", action="store_true")
    args = parser.parse_args()
    if args.apart:
        for name, target in (("a", FIRST), ("b", NEXT)):
            apart(OUT, name, target)
        return
    with tempfile.TemporaryDirectory() as folder:
        files = [Path(folder) / f"{name}.onnx" for name in "ab"]
        for source, target in zip((args.first, args.second), files, strict=True):
            packed(source, target)
        joined(*files, args.share, OUT)
    print("wrote", OUT, OUT.stat().st_size, "bytes")


if __name__ == "__main__":
    main()

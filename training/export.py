"""Write the trained network as ONNX with weights of half precision: `python -m training.export FILE.onnx`.

Each normalisation is folded into the convolution before it, and weights are widened again as the file is loaded. A
network that is there already stays where the new one is worse on samples that neither was trained on; `--anyway`
replaces it.
"""

import argparse
import io
from pathlib import Path

import numpy as np
import onnx
import onnxruntime
import torch
from onnx import TensorProto, helper, numpy_helper
from torch.nn.utils.fusion import fuse_conv_bn_eval

from training.losses import loss_of
from training.network import FigureNet
from training.samples import draw_solid, sample_of
from training.train import STATE, truth_of

SIDE = 128
OPSET = 17
LEAST_WEIGHTS = 64
RANK = 112
RNG = np.random.default_rng(5)
JUDGED = 48


def folded(net: FigureNet) -> FigureNet:
    """The network without normalisations."""
    net = net.eval()
    for block in (*net.down, *net.up):
        for at in (0, 3):
            block[at] = fuse_conv_bn_eval(block[at], block[at + 1])
            block[at + 1] = torch.nn.Identity()
    return net


def narrowed(net: FigureNet) -> FigureNet:
    """The network with its widest convolution as two, by the largest singular values: the file has its limit."""
    wide = net.up[0][0]
    matrix = wide.weight.detach().reshape(wide.out_channels, -1)
    left, sizes, right = torch.linalg.svd(matrix, full_matrices=False)
    first = torch.nn.Conv2d(wide.in_channels, RANK, 3, padding=1, bias=False)
    first.weight.data = right[:RANK].reshape(RANK, wide.in_channels, 3, 3)
    last = torch.nn.Conv2d(RANK, wide.out_channels, 1)
    last.weight.data = (left[:, :RANK] * sizes[:RANK]).reshape(wide.out_channels, RANK, 1, 1)
    last.bias.data = wide.bias.detach()
    net.up[0][0] = torch.nn.Sequential(first, last)
    return net


def halved(model: onnx.ModelProto) -> onnx.ModelProto:
    """The model with its larger weights kept in half precision."""
    graph, casts, kept = model.graph, [], []
    for weight in graph.initializer:
        values = numpy_helper.to_array(weight)
        if values.dtype != np.float32 or values.size < LEAST_WEIGHTS:
            kept.append(weight)
            continue
        kept.append(numpy_helper.from_array(values.astype(np.float16), f"{weight.name}.half"))
        casts.append(helper.make_node("Cast", [f"{weight.name}.half"], [weight.name], to=TensorProto.FLOAT))
    del graph.initializer[:]
    graph.initializer.extend(kept)
    nodes = [*casts, *graph.node]
    del graph.node[:]
    graph.node.extend(nodes)
    onnx.checker.check_model(model)
    return model


def judged(model: bytes) -> float:
    """The mean loss of a network over 48 drawn samples, without strokes and with them; less is better."""
    rng = np.random.default_rng(91)
    samples = [sample_of(draw_solid(rng, SIDE), rng) for _ in range(JUDGED)]
    session = onnxruntime.InferenceSession(model)
    said = np.concatenate([session.run(None, {"seen": each.inputs[np.newaxis]})[0] for each in samples])
    return float(loss_of(torch.from_numpy(said), truth_of(samples))[0])


def main() -> None:
    """Export the averaged weights, and tell how far the file is from them."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("target", type=Path)
    parser.add_argument("--state", type=Path, default=STATE)
    parser.add_argument("--anyway", action="store_true", help="replace a network that is better")
    wish = parser.parse_args()
    kept = torch.load(wish.state, weights_only=True)
    net = FigureNet()
    net.load_state_dict(kept["average"])
    seen = torch.from_numpy(np.stack([sample_of(draw_solid(RNG, SIDE), RNG).inputs for _ in range(8)]))
    with torch.inference_mode():
        trained = net.eval()(seen)
    net = narrowed(folded(net))
    file = io.BytesIO()
    torch.onnx.export(
        net, (seen,), file, input_names=["seen"], output_names=["said"], opset_version=OPSET, dynamo=False,
        dynamic_axes={name: {0: "batch", 2: "rows", 3: "columns"} for name in ("seen", "said")},
    )  # fmt: skip
    model = halved(onnx.load_from_string(file.getvalue()))
    model.doc_string = f"Depths of figures; {kept['step']} steps, {kept['spent'] / 60:.0f} minutes"
    made = model.SerializeToString()
    if wish.target.exists() and not wish.anyway:
        before, now = judged(wish.target.read_bytes()), judged(made)
        print(f"loss {now:.4f}, of the network that is there {before:.4f}")
        if now >= before:
            print(f"{wish.target} stays as it is: it is better; more training, or --anyway, replaces it")
            return
    wish.target.write_bytes(made)
    written = onnxruntime.InferenceSession(str(wish.target)).run(None, {"seen": seen.numpy()})[0]
    off = np.abs(written - trained.numpy()).mean(axis=(0, 2, 3)) / trained.numpy().std(axis=(0, 2, 3))
    print("off by", " ".join(f"{part:.4f}" for part in off), "of how much each output varies")
    print(f"{wish.target}: {wish.target.stat().st_size:,} bytes, {model.doc_string}")


if __name__ == "__main__":
    main()

"""
Trains the network of kinds with PyTorch:  python3 network.py FOLDER EPOCHS [WEIGHTS.json]

FOLDER holds layout.json and the examples that train.ts wrote: features as bytes, a bit for every class
an example may be, and how much it counts, for "train", and the first two for "fit". Writes network.json there:
the epoch that explains "fit" best at a temperature of its own, in the form that src/core/finding/kinds/model.ts reads,
and what it says of a few examples, for a test to compare. With WEIGHTS.json it goes on from these.
"""
import base64
import json
import sys

import numpy
import torch
from torch import nn

FOLDER, EPOCHS, FROM = sys.argv[1], int(sys.argv[2]), sys.argv[3] if len(sys.argv) > 3 else None
LAYOUT = json.load(open(f"{FOLDER}/layout.json"))
CLASSES = LAYOUT["classes"]
BATCH = 128
# Slower where weights were trained before.
RATE = 0.0008 if FROM else 0.002
DECAY = 0.05
# Share of values left out at random, and noise on the features.
DROPPED = 0.2
NOISE = 0.05
# How much of their running mean the weights keep at every step: means of late weights generalise better
# (B. Polyak and A. Juditsky, "Acceleration of stochastic approximation by averaging", 1992).
MEMORY = 0.999
PLANES = [24, 48, 48]
HIDDEN = 160
TEMPERATURES = torch.arange(0.8, 3, 0.05)


class Network(nn.Module):
    """Convolutions over the own spectrum, with the bed as a second plane, and over the attackSpectra; then two dense layers."""

    def __init__(self):
        super().__init__()
        a, b, c = PLANES
        self.spectrum = nn.Sequential(
            nn.Conv2d(2, a, 3, padding=1), nn.ReLU(),
            nn.Conv2d(a, b, 3, padding=1, stride=(1, 2)), nn.ReLU(),
            nn.Conv2d(b, c, 3, padding=1, stride=2), nn.ReLU())
        self.attackSpectra = nn.Sequential(
            nn.Conv2d(1, a, 3, padding=1), nn.ReLU(),
            nn.Conv2d(a, b, 3, padding=1, stride=(1, 2)), nn.ReLU(),
            nn.Conv2d(b, c, 3, padding=1, stride=2), nn.ReLU())
        self.drop = nn.Dropout(DROPPED)
        self.hidden = nn.Linear(self.joined(torch.zeros(1, LAYOUT["features"])).shape[1], HIDDEN)
        self.answer = nn.Linear(HIDDEN, CLASSES)

    def joined(self, x):
        bed, at, bands = LAYOUT["bed"], LAYOUT["attackSpectra"], LAYOUT["bands"]
        end = at + LAYOUT["glimpseRows"] * LAYOUT["glimpseBands"]
        own = x[:, :bed].reshape(-1, 1, bed // bands, bands)
        beds = x[:, None, None, bed:bed + bands].expand_as(own)
        attackSpectra = x[:, at:end].reshape(-1, 1, LAYOUT["glimpseRows"], LAYOUT["glimpseBands"])
        return torch.cat([self.spectrum(torch.cat([own, beds], 1)).flatten(1), self.attackSpectra(attackSpectra).flatten(1), x[:, bed:at], x[:, end:]], 1)

    def forward(self, x):
        return self.answer(self.drop(torch.relu(self.hidden(self.drop(self.joined(x))))))


def examples(name):
    allowed = numpy.fromfile(f"{FOLDER}/{name}.allowed", numpy.uint8)
    features = numpy.fromfile(f"{FOLDER}/{name}.features", numpy.int8).reshape(len(allowed), -1)
    bits = (allowed[:, None] >> numpy.arange(CLASSES)) & 1
    return torch.from_numpy(features), torch.from_numpy(bits.astype(numpy.float32))


def loss(outputs, allowed):
    """Minus the logarithm of what the allowed classes share."""
    return -torch.logsumexp(torch.log_softmax(outputs, 1) + torch.log(allowed + 1e-9), 1)


def packed(layer):
    """The layer as model.ts reads it; its weights are rounded in place, so that all that follows sees the same."""
    weights = layer.weight.detach()
    scale = float(weights.abs().max() / 127)
    whole = torch.round(weights / scale)
    layer.weight.data = whole * scale
    return {"inputs": weights.shape[1], "outputs": weights.shape[0], **({"stride": list(layer.stride)} if isinstance(layer, nn.Conv2d) else {}), "scale": scale,
            "weights": base64.b64encode(whole.contiguous().to(torch.int8).numpy().tobytes()).decode(),
            "bias": [float(f"{value:.6g}") for value in layer.bias.tolist()]}


def read(layer, kept):
    """What packed() wrote."""
    values = numpy.frombuffer(base64.b64decode(kept["weights"]), numpy.int8).astype(numpy.float32) * kept["scale"]
    layer.weight.data = torch.from_numpy(values).reshape(layer.weight.shape)
    layer.bias.data = torch.tensor(kept["bias"])


def layers(network):
    """All that have weights, and their places in what is written."""
    for name in ["spectrum", "attackSpectra"]:
        for k, layer in enumerate(step for step in getattr(network, name) if isinstance(step, nn.Conv2d)):
            yield layer, name, k
    yield network.hidden, "dense", 0
    yield network.answer, "dense", 1


torch.manual_seed(7)
scale = LAYOUT["scale"]
features, allowed = examples("train")
weights = torch.from_numpy(numpy.fromfile(f"{FOLDER}/train.weights", numpy.float32))
fit_features, fit_allowed = examples("fit")
network = Network()
if FROM:
    before = json.load(open(FROM))
    for layer, name, k in layers(network):
        read(layer, before[name][k])
# Channels of a pixel side by side: half as fast again on a processor.
network = network.to(memory_format=torch.channels_last)
mean = torch.optim.swa_utils.AveragedModel(network, multi_avg_fn=torch.optim.swa_utils.get_ema_multi_avg_fn(MEMORY))
optimizer = torch.optim.AdamW(network.parameters(), lr=RATE, weight_decay=DECAY)
schedule = torch.optim.lr_scheduler.OneCycleLR(optimizer, RATE, epochs=EPOCHS, steps_per_epoch=-(-len(features) // BATCH), pct_start=0.05)
best = None
for epoch in range(EPOCHS):
    network.train()
    order = torch.randperm(len(features))
    for begin in range(0, len(features), BATCH):
        chosen = order[begin:begin + BATCH]
        x = features[chosen].float() / scale
        error = (loss(network(x + NOISE * (2 * torch.rand_like(x) - 1)), allowed[chosen]) * weights[chosen]).mean()
        optimizer.zero_grad()
        error.backward()
        optimizer.step()
        schedule.step()
        mean.update_parameters(network)
    mean.eval()
    with torch.no_grad():
        outputs = mean(fit_features.float() / scale)
        now = min(loss(outputs / temperature, fit_allowed).mean().item() for temperature in TEMPERATURES)
    print(f"epoch {epoch + 1}: loss {error.item():.3f}, on packages kept apart {now:.4f}", flush=True)
    if best is None or now < best[0]:
        best = now, {name: value.clone() for name, value in mean.module.state_dict().items()}

network.load_state_dict(best[1])
network.eval()
result = {"spectrum": [], "attackSpectra": [], "dense": []}
for layer, name, _ in layers(network):
    result[name].append(packed(layer))
json.dump(result, open(f"{FOLDER}/network.json", "w"))
shown = fit_features[:: max(1, len(fit_features) // 4)][:4]
with torch.no_grad():
    outputs = network(shown.float() / scale)
json.dump({"torch": torch.__version__, "scale": scale,
           "examples": [{"features": base64.b64encode(row.numpy().tobytes()).decode(), "outputs": [round(value, 4) for value in out.tolist()]} for row, out in zip(shown, outputs)]},
          open(f"{FOLDER}/reference.json", "w"))

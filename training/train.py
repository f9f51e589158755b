"""Trains the network of the estimate from rendered random scenes (see render.ts).

Reads out/training/*.jpg (pictures, sRGB; -open.jpg the same defocused) and *.f32 (1/distance, row by row) and writes out/training/network.pt after
every epoch; export.py turns that into the file that ships. The encoder was trained on photographs (backbone.py). Learned is a mean of the rank of 1/distance and of its stretched value, by absolute error, by its gradients (Li & Snavely
2018) and by the order of random pairs (Chen et al. 2016).

`train.py EPOCHS [--threads N] [--start FILE] [--encoder fixed|anew|gently]`. FILE is a .pt file to go on from. The encoder is
adjusted gently, or stays as it is, or is taken from the photographs again and stays so: what it learned of photographs is lost little by
little on rendered scenes. What is written and scored is the running mean of the weights (Polyak & Juditsky 1992), which errs less than
where the last steps left them.
"""
import argparse
import copy
import glob
import math
import random
import time

import numpy as np
import torch
import torch.nn as nn
import torch.nn.functional as F
from PIL import Image

from network import Network

# of the rendered pictures
WIDTH, HEIGHT = 240, 160
# the sizes (height, width) that the network is trained at
SHAPES = [(192, 288), (192, 288), (128, 192), (224, 224), (288, 192), (160, 256)]


def target_of(near):
    """0..1 per pixel at half size: mean of rank and stretched 1/distance. near: n, h, w."""
    near = F.avg_pool2d(near[:, None], 2)[:, 0]
    n, h, w = near.shape
    flat = near.reshape(n, -1).numpy()
    out = np.empty_like(flat)
    for i in range(n):
        values, inverse, counts = np.unique(flat[i], return_inverse=True, return_counts=True)
        rank = (np.cumsum(counts) - counts / 2) / flat.shape[1]
        rank[0] = rank[0] if counts[0] < 50 else 0
        lo, hi = np.quantile(flat[i], [0.02, 0.98])
        stretched = np.clip((flat[i] - lo) / max(1e-6, hi - lo), 0, 1)
        out[i] = 0.6 * rank[inverse] + 0.4 * stretched
    return near, torch.from_numpy(out.reshape(n, h, w))


def leaning(rgb, near):
    """The same scene (uint8 h, w, 3 and float h, w) by a camera that was not held level, without the corners that this leaves empty."""
    angle = random.uniform(-0.12, 0.12)
    zoom = math.cos(angle) + abs(math.sin(angle)) * WIDTH / HEIGHT
    c, s = math.cos(angle) / zoom, math.sin(angle) / zoom
    turn = torch.tensor([[[c, -s * HEIGHT / WIDTH, 0], [s * WIDTH / HEIGHT, c, 0]]])
    grid = F.affine_grid(turn, (1, 1, HEIGHT, WIDTH), align_corners=False)
    a = F.grid_sample(torch.from_numpy(rgb.astype(np.float32)).permute(2, 0, 1)[None], grid, 'bilinear', 'border', False)[0]
    b = F.grid_sample(torch.from_numpy(near)[None, None], grid, 'nearest', 'border', False)[0, 0]
    return a.permute(1, 2, 0).numpy().astype(np.uint8), b.numpy()


def patterned(rgb, near, other):
    """What lies nearer, or farther, than some pixel takes on a pattern cut from another picture: patterns tell nothing of distance."""
    size = random.choice([40, 60, 80])
    y, x = random.randrange(HEIGHT - size), random.randrange(WIDTH - size)
    cut = other[y : y + size, x : x + size].astype(np.float32).mean(2, keepdims=True)
    pair = np.concatenate([cut, cut[:, ::-1]], 1)
    four = np.concatenate([pair, pair[::-1]], 0)
    shade = np.tile(four, (4, 4, 1))[:HEIGHT, :WIDTH]
    shade = (shade / max(8, shade.mean())) ** random.uniform(0.4, 1)
    limit = near[random.randrange(HEIGHT), random.randrange(WIDTH)]
    mask = (near >= limit if random.random() < 0.5 else near <= limit)[:, :, None]
    return np.where(mask, np.clip(rgb * np.clip(shade, 0.15, 2), 0, 255), rgb).astype(np.uint8)


def lit(a):
    """Light that falls off across the picture or to its corners."""
    _, h, w = a.shape
    y, x = torch.meshgrid(torch.linspace(-1, 1, h), torch.linspace(-1, 1, w), indexing='ij')
    if random.random() < 0.5:
        return a * (1 - random.uniform(0, 0.4) * (x * x + y * y) / 2)
    angle = random.uniform(0, 2 * math.pi)
    return a * 2 ** (random.uniform(0, 0.8) * (x * math.cos(angle) + y * math.sin(angle)))


def augment(pictures, near, shape, other):
    """A random crop of one scene (its pictures uint8 h, w, 3, and float h, w), mirrored, its light and colour changed."""
    h, w = shape
    rgb = random.choice(pictures)
    if random.random() < 0.25:
        rgb = patterned(rgb, near, other)
    if random.random() < 0.35:
        rgb, near = leaning(rgb, near)
    aspect = w / h
    k = random.uniform(0.7, 1) if random.random() < 0.6 else 1
    ch, cw = (HEIGHT * k, HEIGHT * k * aspect) if aspect * HEIGHT <= WIDTH + 1 else (WIDTH * k / aspect, WIDTH * k)
    y, x = random.uniform(0, HEIGHT - ch), random.uniform(0, WIDTH - cw)
    box = (int(x), int(y), int(x + cw), int(y + ch))
    a = torch.from_numpy(rgb[box[1] : box[3], box[0] : box[2]].astype(np.float32) / 255).permute(2, 0, 1)[None]
    b = torch.from_numpy(near[box[1] : box[3], box[0] : box[2]].copy())[None, None]
    a = F.interpolate(a, size=shape, mode='bilinear', align_corners=False)[0]
    b = F.interpolate(b, size=shape, mode='nearest')[0, 0]
    if random.random() < 0.5:
        a, b = a.flip(-1), b.flip(-1)
    a = a ** (2 ** random.uniform(-0.7, 0.7))
    if random.random() < 0.25:
        a = lit(a)
    if random.random() < 0.25:
        a = a[torch.randperm(3)]
    grey = a.mean(0, keepdim=True)
    a = grey + (a - grey) * (0 if random.random() < 0.12 else random.uniform(0.5, 1.3))
    a = a * torch.tensor([random.uniform(0.8, 1.2) for _ in range(3)]).view(3, 1, 1)
    a = (a - 0.5) * random.uniform(0.7, 1.25) + 0.5 + random.uniform(-0.12, 0.12)
    if random.random() < 0.5:
        # rendered pictures are enlarged here, photographs reduced: made as sharp as those
        a = a + random.uniform(0.3, 1.2) * (a - F.avg_pool2d(F.pad(a[None], (1, 1, 1, 1), 'replicate'), 3, 1)[0])
    elif random.random() < 0.3:
        s = random.choice([2, 3])
        small = F.avg_pool2d(a[None], s)
        a = F.interpolate(small, size=shape, mode='bilinear', align_corners=False)[0]
    if random.random() < 0.5:
        a = a + torch.randn_like(a) * random.uniform(0, 0.05)
    return a.clamp(0, 1), b


def loss_of(p, t, near):
    loss = (p - t).abs().mean()
    d = p - t
    for s in range(3):
        q = F.avg_pool2d(d[:, None], 2**s)[:, 0] if s else d
        loss = loss + 0.4 * ((q[:, 1:] - q[:, :-1]).abs().mean() + (q[:, :, 1:] - q[:, :, :-1]).abs().mean())
    n = p.shape[0]
    fp, fn = p.reshape(n, -1), near.reshape(n, -1)
    i = torch.randint(0, fp.shape[1], (n, 3000))
    j = torch.randint(0, fp.shape[1], (n, 3000))
    a, b = fn.gather(1, i), fn.gather(1, j)
    apart = ((a - b).abs() > 0.02 * torch.maximum(a, b)).float()
    sign = torch.sign(a - b)
    pair = F.softplus(-sign * (fp.gather(1, i) - fp.gather(1, j)) / 0.08) * apart
    return loss + 0.25 * pair.sum() / apart.sum().clamp(min=1)


def order(p, near, seed=0):
    g = torch.Generator().manual_seed(seed)
    n = p.shape[0]
    fp, fn = p.reshape(n, -1), near.reshape(n, -1)
    i = torch.randint(0, fp.shape[1], (n, 4000), generator=g)
    j = torch.randint(0, fp.shape[1], (n, 4000), generator=g)
    a, b = fn.gather(1, i), fn.gather(1, j)
    apart = (a - b).abs() > 0.02 * torch.maximum(a, b)
    right = (torch.sign(a - b) == torch.sign(fp.gather(1, i) - fp.gather(1, j))).float()
    return [(right[k][apart[k]].mean().item()) for k in range(n) if apart[k].sum() > 100]


def load():
    """Of every scene: its pictures (sharp, defocused), nearness, and name."""
    rgbs, nears, names = [], [], []
    for f in sorted(glob.glob('out/training/*.f32')):
        read = [np.asarray(Image.open(f'{f[:-4]}{kind}.jpg').convert('RGB')) for kind in ('', '-open')]
        near = np.fromfile(f, np.float32).reshape(HEIGHT, WIDTH)
        if np.median(read[0]) < 6 or np.quantile(near, 0.98) < 1.05 * np.quantile(near, 0.02) or not np.isfinite(near).all():
            continue
        rgbs.append(read)
        nears.append(near)
        names.append(f[:-4])
    return rgbs, nears, names


if __name__ == '__main__':
    parser = argparse.ArgumentParser()
    parser.add_argument('epochs', type=int)
    parser.add_argument('--threads', type=int, default=2)
    parser.add_argument('--start')
    parser.add_argument('--encoder', choices=['fixed', 'anew', 'gently'], default='gently')
    parser.add_argument('--peak', type=float, default=1.5e-3)
    asked = parser.parse_args()
    epochs = asked.epochs
    torch.set_num_threads(asked.threads)
    random.seed(1)
    torch.manual_seed(1)
    rgbs, nears, names = load()
    held = [k for k in range(len(rgbs)) if k % 20 == 0]
    open('out/training/held.txt', 'w').write('\n'.join(names[k] for k in held))
    trained = [k for k in range(len(rgbs)) if k % 20]
    print(len(rgbs), 'scenes', flush=True)
    net = Network()
    taken = [p for key, p in net.named_parameters() if key.startswith('backbone')]
    own = [p for key, p in net.named_parameters() if not key.startswith('backbone')]
    if asked.start:
        net.load_state_dict(torch.load(asked.start))
    if taken and (asked.encoder == 'anew' or not asked.start):
        net.backbone.read()
    if asked.encoder != 'gently':
        for p in taken:
            p.requires_grad_(False)
        taken = []
    # twice as fast on a processor
    net = net.to(memory_format=torch.channels_last)
    averaged = copy.deepcopy(net).eval()
    print(sum(p.numel() for p in net.parameters()), 'parameters', flush=True)
    batch = 8
    peak = asked.peak
    steps = epochs * (len(trained) // batch)
    opt = torch.optim.AdamW([{'params': own}, {'params': taken}] if taken else own, lr=1e-3, weight_decay=0.02)
    schedule = torch.optim.lr_scheduler.OneCycleLR(opt, max_lr=[peak, peak / 15] if taken else peak, total_steps=steps, pct_start=0.15)
    for epoch in range(epochs):
        started = time.time()
        net.train()
        random.shuffle(trained)
        total = 0.0
        for s in range(len(trained) // batch):
            shape = random.choice(SHAPES)
            pairs = [augment(rgbs[k], nears[k], shape, random.choice(rgbs[random.choice(trained)])) for k in trained[s * batch : s * batch + batch]]
            near, t = target_of(torch.stack([b for _, b in pairs]))
            p = net(torch.stack([a for a, _ in pairs]).contiguous(memory_format=torch.channels_last))
            loss = loss_of(p, t, near)
            opt.zero_grad()
            loss.backward()
            nn.utils.clip_grad_norm_(net.parameters(), 5)
            opt.step()
            schedule.step()
            with torch.no_grad():
                step = epoch * (len(trained) // batch) + s
                kept = min(0.998, (1 + step) / (10 + step))
                for a, b in zip(averaged.state_dict().values(), net.state_dict().values()):
                    a.copy_(kept * a + (1 - kept) * b if a.is_floating_point() else b)
            total += loss.item()
            if s % 20 == 0:
                print(s, round(total / (s + 1), 4), round(time.time() - started), flush=True)
        with torch.no_grad():
            scores, ramps = [], []
            for k, rgb in [(k, rgb) for k in held for rgb in rgbs[k]]:
                rgb = torch.from_numpy(rgb.astype(np.float32) / 255).permute(2, 0, 1)[None]
                rgb = F.interpolate(rgb, size=SHAPES[0], mode='bilinear', align_corners=False)
                near = F.interpolate(torch.from_numpy(nears[k])[None, None], size=SHAPES[0], mode='nearest')
                near = F.avg_pool2d(near, 2)[:, 0]
                scores += order(averaged(rgb), near)
                ramp = torch.arange(near.shape[1]).float().view(1, -1, 1).expand_as(near)
                ramps += order(ramp, near)
        torch.save(averaged.state_dict(), 'out/training/network.pt')
        print(f'epoch {epoch} loss {total / (len(trained) // batch):.4f} held-out order {np.mean(scores):.4f} ramp {np.mean(ramps):.4f} {time.time() - started:.0f} s', flush=True)

"""The object detector whose encoder the estimate's network begins with: the package @vladmandic/human (MIT), file models/centernet.json.
`npm pack @vladmandic/human@3.3.6` and unpack it so that out/human/models/centernet.json exists."""
import json

import numpy as np


def stored_tensors(folder='out/human/models', name='centernet'):
    """Every tensor of the detector, or of another network of that package, by its name."""
    stored = json.load(open(f'{folder}/{name}.json'))['weightsManifest'][0]
    raw = b''.join(open(folder + '/' + p, 'rb').read() for p in stored['paths'])
    tensors, at = {}, 0
    for w in stored['weights']:
        count = int(np.prod(w['shape'])) if w['shape'] else 1
        kind = np.dtype('<i4') if w['dtype'] == 'int32' else np.dtype('<f2')
        assert kind.kind == 'i' or w.get('quantization', {}).get('dtype') == 'float16', w['name']
        tensors[w['name'].replace('tower_0/', '')] = np.frombuffer(raw, kind, count, at).reshape(w['shape']).astype(np.float32)
        at += count * kind.itemsize
    assert at == len(raw)
    return tensors

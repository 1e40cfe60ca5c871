"""Gradients of our own for colour ramps, drawn from the props of Skerry Light: (name, stops of place and sRGB colour)."""

import numpy as np

from nineglass.network.pictures import linear_of

_NAMED = {
    "net float": "0 #12331f, 0.5 #4f8f63, 1 #cfe6d2",
    "sea-worn float": "0 #5d7f78, 0.6 #a9c2b8, 1 #e4ebe4",
    "ruby lens": "0 #2a0006, 0.4 #8a0a1c, 1 #ff7a70",
    "blue-black ink": "0 #05070f, 0.45 #16264f, 0.8 #5b7cba, 1 #cfdcef",
    "rosehip cordial": "0 #3a0702, 0.35 #b32a10, 0.7 #ee8a3a, 1 #fde3a8",
    "tourmaline": "0 #0c2b22, 0.4 #2c7a5c, 0.6 #c77d94, 1 #f2c9d2",
    "badger hair": "0 #ded7cb, 0.3 #f3efe8, 0.5 #201b18, 0.8 #2b2522, 1 #efe9df",
    "otter pelt": "0 #1c120b, 0.5 #4a3322, 1 #8d6f53",
    "tallow": "0 #b98a4c, 0.5 #e7cf9c, 1 #fbf3dc",
    "whale tooth": "0 #5a3b22, 0.3 #b08a5c, 0.7 #e6d8bd, 1 #f7f1e3",
    "jade": "0 #1f4a35, 0.5 #5d9a74, 1 #c8dfc4",
    "harbour fog": "0 #6c7880, 0.5 #a5adb1, 1 #dcdedd",
    "chimney smoke": "0 #1d1b1a, 0.5 #5f5a56, 1 #b9b3ac",
    "wick flame": "0 #1a0300, 0.25 #a52a04, 0.55 #ff8c1a, 0.8 #ffd978, 1 #fffbe8",
    "nacre": "0 #8fb7a6, 0.25 #d79ab5, 0.5 #7fb3c8, 0.75 #c7a3cf, 1 #a8cfae",
    "lamp oil": "0 #2b2b33, 0.2 #7d5aa6, 0.4 #3c8fb0, 0.6 #6fae5a, 0.8 #d8b24a, 1 #b35a6e",
    "temper colours": "0 #c9c2b0, 0.3 #d8b25a, 0.5 #a5603a, 0.65 #6b3a78, 0.8 #2f4f9c, 1 #7fa7b8",
    "caddy enamel": "0 #26060a, 0.6 #7a1118, 1 #c8473c",
    "driftwood": "0 #3b342d, 0.4 #7d7163, 0.75 #b3a794, 1 #d9d0c1",
    "slate": "0 #14171a, 0.5 #343a40, 1 #6b737a",
    "brass": "0 #3a2a0e, 0.5 #a37b2f, 1 #f1d995",
    "lichen": "0 #2f3a2a, 0.4 #7d8a4a, 0.7 #c7b65a, 1 #e9e2b4",
    "rock pool": "0 #06222b, 0.4 #14606a, 0.75 #6fb3a2, 1 #e1e8c9",
    "evening sky": "0 #0d1730, 0.4 #3f4f86, 0.65 #b06a7a, 0.85 #f0a06a, 1 #ffe2b0",
}


def _stop(text: str) -> list:
    place, color = text.split()
    encoded = np.array([int(color[i : i + 2], 16) / 255 for i in (1, 3, 5)])
    return [float(place), [round(float(v), 4) for v in linear_of(encoded)]]


GRADIENTS = {name: [_stop(one.strip()) for one in text.split(",")] for name, text in _NAMED.items()}
"""By name, stops of [place, linear Rec.709]."""

"""A glTF file while it is put together: numbers go into one buffer, everything else points there."""

from typing import Any

import numpy as np
from numpy.typing import NDArray
from pygltflib import (  # type: ignore[import-untyped]
    ARRAY_BUFFER,
    BLEND,
    CLAMP_TO_EDGE,
    ELEMENT_ARRAY_BUFFER,
    FLOAT,
    GLTF2,
    LINES,
    NEAREST,
    SCALAR,
    UNSIGNED_INT,
    VEC2,
    VEC3,
    Accessor,
    Asset,
    Attributes,
    Buffer,
    BufferView,
    Image,
    Material,
    Mesh,
    Node,
    PbrMetallicRoughness,
    Primitive,
    Sampler,
    Scene,
    Texture,
    TextureInfo,
)

_UNLIT = "KHR_materials_unlit"
_CORNERS = np.array([0, 3, 1, 1, 3, 2])
"""The two triangles of a rectangle, counter-clockwise as it is seen."""
Floats = NDArray[np.float32]


class Glb:
    """A scene whose parts are added one by one.

    Parameters
    ----------
    name : str
    extras : mapping
        What else is said of the scene.
    """

    def __init__(self, name: str, extras: dict[str, Any]) -> None:
        self._data = bytearray()
        self._parts: list[Primitive] = []
        self._gltf = GLTF2(
            asset=Asset(version="2.0", generator="Knit Ground"),
            scene=0,
            scenes=[Scene(name=name, nodes=[], extras=extras)],
            samplers=[Sampler(magFilter=NEAREST, minFilter=NEAREST, wrapS=CLAMP_TO_EDGE, wrapT=CLAMP_TO_EDGE)],
            extensionsUsed=[_UNLIT],
        )

    def material(self, name: str, png: bytes) -> int:
        """A material that shows a picture as it is."""
        view = self._view(png, None)
        self._gltf.images.append(Image(name=name, mimeType="image/png", bufferView=view))
        self._gltf.textures.append(Texture(sampler=0, source=len(self._gltf.images) - 1))
        return self._material(name, len(self._gltf.textures) - 1, [1.0, 1.0, 1.0, 1.0])

    def dressed(self, material: int, factor: list[float]) -> int:
        """The same material with a factor for red, green, blue and alpha."""
        known = self._gltf.materials[material]
        return self._material(known.name, known.pbrMetallicRoughness.baseColorTexture.index, factor)

    def _material(self, name: str, texture: int, factor: list[float]) -> int:
        surface = PbrMetallicRoughness(
            baseColorTexture=TextureInfo(index=texture), baseColorFactor=factor, metallicFactor=0.0, roughnessFactor=1.0
        )
        self._gltf.materials.append(
            Material(
                name=name,
                pbrMetallicRoughness=surface,
                alphaMode=BLEND,
                alphaCutoff=None,
                doubleSided=True,
                extensions={_UNLIT: {}},
            )
        )
        return len(self._gltf.materials) - 1

    def quads(self, corners: Floats, uvs: Floats, material: int) -> int:
        """Rectangles as one part of a mesh: (N, 4, 3) corners, and (N, 4, 2) where they lie on the picture.

        Parameters
        ----------
        corners : (N, 4, 3) float32
            Upper left, upper right, lower right, lower left, in units of the game.
        uvs : (N, 4, 2) float32
            The same on the picture, from 0 to 1.
        material : int

        Returns
        -------
        part : int
        """
        count = len(corners)
        indices = (np.arange(count, dtype=np.uint32)[:, None] * 4 + _CORNERS.astype(np.uint32)).reshape(-1)
        attributes = Attributes(
            POSITION=self._numbers(corners.reshape(-1, 3), VEC3, bounds=True),
            TEXCOORD_0=self._numbers(uvs.reshape(-1, 2), VEC2),
        )
        self._parts.append(Primitive(attributes=attributes, indices=self._indices(indices), material=material))
        return len(self._parts) - 1

    def lines(self, ends: Floats) -> int:
        """Lines as one part of a mesh: (2 N, 3) ends, two for each.

        Parameters
        ----------
        ends : (2 N, 3) float32
            Two for each line, in units of the game.

        Returns
        -------
        part : int
        """
        attributes = Attributes(POSITION=self._numbers(ends, VEC3, bounds=True))
        self._parts.append(Primitive(attributes=attributes, mode=LINES))
        return len(self._parts) - 1

    def mesh(self, name: str, parts: list[int]) -> int:
        """A mesh of some parts."""
        self._gltf.meshes.append(Mesh(name=name, primitives=[self._parts[part] for part in parts]))
        return len(self._gltf.meshes) - 1

    def child(self, name: str, mesh: int | None, place: dict[str, list[float]], extras: dict[str, Any]) -> int:
        """A node that another one will hold."""
        self._gltf.nodes.append(Node(name=name, mesh=mesh, extras=extras, **place))
        return len(self._gltf.nodes) - 1

    def node(self, name: str, mesh: int | None, children: list[int], extras: dict[str, Any]) -> None:
        """A node of the scene itself."""
        self._gltf.nodes.append(Node(name=name, mesh=mesh, children=children or None, extras=extras))
        self._gltf.scenes[0].nodes.append(len(self._gltf.nodes) - 1)

    def written(self) -> bytes:
        """The whole file."""
        self._gltf.buffers = [Buffer(byteLength=len(self._data))]
        self._gltf.set_binary_blob(bytes(self._data))
        return b"".join(self._gltf.save_to_bytes())

    def _indices(self, indices: NDArray[np.uint32]) -> int:
        view = self._view(indices.tobytes(), ELEMENT_ARRAY_BUFFER)
        self._gltf.accessors.append(
            Accessor(bufferView=view, componentType=UNSIGNED_INT, count=len(indices), type=SCALAR)
        )
        return len(self._gltf.accessors) - 1

    def _numbers(self, numbers: Floats, kind: str, *, bounds: bool = False) -> int:
        numbers = numbers.astype(np.float32)
        view = self._view(numbers.tobytes(), ARRAY_BUFFER)
        found = {"min": numbers.min(axis=0).tolist(), "max": numbers.max(axis=0).tolist()} if bounds else {}
        self._gltf.accessors.append(
            Accessor(bufferView=view, componentType=FLOAT, count=len(numbers), type=kind, **found)
        )
        return len(self._gltf.accessors) - 1

    def _view(self, data: bytes, target: int | None) -> int:
        """Room in the buffer, which begins at a multiple of four bytes."""
        self._data += bytes(-len(self._data) % 4)
        self._gltf.bufferViews.append(
            BufferView(buffer=0, byteOffset=len(self._data), byteLength=len(data), target=target)
        )
        self._data += data
        return len(self._gltf.bufferViews) - 1

// A Blocks stage on the device. One side of a pair: src/gpu/passes/block_world.h holds the structs in C++, and a test compares every offset.
#ifndef BLOCK_WORLD_GLSL
#define BLOCK_WORLD_GLSL
#include "include/structs.glsl"

struct BlockPartData {  // the still world, then its props
    mat4 toWorld;       // cells to metres
    mat4 fromWorld;
    ivec4 chunks;       // along each axis; w: its first entry among all chunks
    ivec4 size;         // cells
    ivec4 tree;         // x: its root among all nodes, y: levels, 0: nothing stops light
};
struct BlockMaterialData {
    vec4 color;         // linear; w: opacity
    vec4 surface;       // x roughness, y metallic, z glow (cd/m2)
    vec4 lamp;          // colour of its light, the largest channel 1; w: its largest level
};
struct BlockChunkData {
    uint light;         // of its first cell's word; 0xFFFFFFFF: all are `all`
    uint all;
    uint extra;         // of what the way keeps beside it; 0xFFFFFFFF: nothing
    uint pad;
};
layout(std430) readonly buffer BlockPartBuffer { BlockPartData blockParts[]; };
layout(std430) readonly buffer BlockPaletteBuffer { BlockMaterialData blockPalette[]; };
layout(std430) readonly buffer BlockChunkBuffer { BlockChunkData blockChunks[]; };
layout(std430) readonly buffer BlockLightBuffer { uint blockLight[]; };  // levels of red, green, blue, sun, 8 bits each; the highest bit: light is stopped
layout(std430) readonly buffer BlockExtraBuffer { uint blockExtra[]; };  // cast: hits toward the sun, away << 8; origin: two words a cell

const ivec3 blockDirections[6] = ivec3[6](ivec3(1, 0, 0), ivec3(-1, 0, 0), ivec3(0, 1, 0), ivec3(0, -1, 0), ivec3(0, 0, 1), ivec3(0, 0, -1));
const ivec2 blockAxes[3] = ivec2[3](ivec2(2, 1), ivec2(0, 2), ivec2(0, 1)); // that faces across x, y, z lie along
const uint openSky = 63u << 24;

bool holdsCell(int part, ivec3 cell) { return all(greaterThanEqual(cell, ivec3(0))) && all(lessThan(cell, blockParts[part].size.xyz)); }
uint placeInChunk(ivec3 c) { return uint((c.x & 31) | (c.z & 31) << 5 | (c.y & 31) << 10); }
BlockChunkData chunkOf(int part, ivec3 cell) {
    ivec4 n = blockParts[part].chunks;
    ivec3 c = cell >> 5;
    return blockChunks[n.w + c.x + n.x * (c.z + n.z * c.y)];
}

/// Levels of a cell of the still world; beyond it the open sky.
uint lightWord(ivec3 cell) {
    if (!holdsCell(0, cell)) return openSky;
    BlockChunkData c = chunkOf(0, cell);
    return c.light == 0xFFFFFFFFu ? c.all : blockLight[c.light + placeInChunk(cell)];
}
bool stopsLight(uint word) { return word >= 0x80000000u; }
uint levelOf(uint word, int channel) { return word >> (8 * channel) & 63u; }

/// What is seen at a pixel.
struct BlockPixel {
    vec3 position;      // metres
    vec3 normal;        // world, unit
    vec3 local;         // the part's own cells
    ivec3 cell;         // of the part
    int part;
    int face;           // of blockDirections
    uint material;
};
BlockPixel blockPixel(vec3 position, uint material, int face, int part) {
    BlockPixel p;
    p.position = position;
    p.part = part;
    p.face = face;
    p.material = material;
    p.local = (blockParts[part].fromWorld * vec4(position, 1.0)).xyz;
    vec3 d = vec3(blockDirections[face]);
    p.cell = ivec3(floor(p.local - 0.5 * d * abs(d)));
    p.normal = part == 0 ? d : normalize(mat3(blockParts[part].toWorld) * d);
    return p;
}

/// The cell of the still world that gives a face its light: the one before it.
ivec3 cellBefore(BlockPixel p) {
    if (p.part == 0) return p.cell + blockDirections[p.face];
    return ivec3(floor((blockParts[0].fromWorld * vec4(p.position + p.normal * (0.5 * parameters.blockWorld.w), 1.0)).xyz));
}
#endif

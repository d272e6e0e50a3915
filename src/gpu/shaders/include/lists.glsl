// Reading the lists: one buffer, first a count for each cell, then `capacity` places for each cell.
#include "include/grid.glsl"

uniform usamplerBuffer listTexels; // of ListBuffer; fetched for the reason that fetchLight gives

#ifndef LISTS_PART
#define LISTS_PART 0 // 1: the second half, the lists of blended surfaces
#endif
uint listCells() { return uint(grid.columns * grid.rows * grid.slices); }
uint listsStart() { return uint(EYE * grid.eyeStride) + uint(LISTS_PART) * listCells() * (1u + uint(grid.capacity)); }
uint listCount(uint cell) { return texelFetch(listTexels, int(listsStart() + cell)).r; }
uint listLight(uint cell, uint k) { return texelFetch(listTexels, int(listsStart() + listCells() + cell * uint(grid.capacity) + k)).r; }

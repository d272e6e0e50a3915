// Reading the lists: one buffer, first a count for each cell, then `capacity` places for each cell.
#include "include/grid.glsl"

layout(std430, binding = 6) readonly buffer ListBuffer { uint lists[]; };

#ifndef LISTS_PART
#define LISTS_PART 0 // 1: the second half, the lists of blended surfaces
#endif
uint listCells() { return uint(grid.columns * grid.rows * grid.slices); }
uint listsStart() { return uint(LISTS_PART) * listCells() * (1u + uint(grid.capacity)); }
uint listCount(uint cell) { return lists[listsStart() + cell]; }
uint listLight(uint cell, uint k) { return lists[listsStart() + listCells() + cell * uint(grid.capacity) + k]; }

// Reading the lists: one buffer, first a count for each cell, then `capacity` places for each cell.
#include "include/grid.glsl"

layout(std430, binding = 6) readonly buffer ListBuffer { uint lists[]; };

uint listCount(uint cell) { return lists[cell]; }
uint listLight(uint cell, uint k) { return lists[uint(grid.columns * grid.rows * grid.slices) + cell * uint(grid.capacity) + k]; }

#version 450 core
// Nothing is written: only whether a pixel passes is asked.
layout(early_fragment_tests) in;
#include "include/structs.glsl"
#include "include/count.glsl"

void main() {
    countWork(0u);
}

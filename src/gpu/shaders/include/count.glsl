// Work counters of the instrumented variants; never compiled into a shader that is timed.
#ifdef COUNT
#ifndef COUNT_PLACE
#define COUNT_PLACE gl_FragCoord
#endif
layout(std430, binding = 7) buffer CounterBuffer { uint counters[]; }; // 64 stripes of (invocations, light evaluations): less contention
void countWork(uint lightEvaluations) {
    uint stripe = 2u * (uint(COUNT_PLACE.x) * 7u + uint(COUNT_PLACE.y) * 13u & 63u);
    atomicAdd(counters[stripe], 1u);
    atomicAdd(counters[stripe + 1u], lightEvaluations);
}
#else
#define countWork(n)
#endif

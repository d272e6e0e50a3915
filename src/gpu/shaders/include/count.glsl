// Work counters of the instrumented variants; never compiled into a shader that is timed.
#ifdef COUNT
layout(std430, binding = 7) buffer CounterBuffer { uint counters[]; }; // 64 stripes of (fragments, light evaluations): less contention
void countWork(uint lightEvaluations) {
    uint stripe = 2u * (uint(gl_FragCoord.x) * 7u + uint(gl_FragCoord.y) * 13u & 63u);
    atomicAdd(counters[stripe], 1u);
    atomicAdd(counters[stripe + 1u], lightEvaluations);
}
#else
#define countWork(n)
#endif

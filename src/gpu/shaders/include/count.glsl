// Work counters of the instrumented variants; never compiled into a shader that is timed.
#ifdef COUNT
layout(std430, binding = 7) buffer CounterBuffer { uint counters[]; }; // 64 stripes of four, so that lanes contend less
uint counterStripe() { return 4u * (uint(gl_FragCoord.x) * 7u + uint(gl_FragCoord.y) * 13u & 63u); }
/// An invocation, and the lights that it takes up.
void countWork(uint lightEvaluations) {
    uint stripe = counterStripe();
    atomicAdd(counters[stripe], 1u);
    atomicAdd(counters[stripe + 1u], lightEvaluations);
}
/// A light that reaches the fragment.
void countReached() { atomicAdd(counters[counterStripe() + 2u], 1u); }
/// Filtered reads of a material's textures.
void countReads(uint reads) { atomicAdd(counters[counterStripe() + 3u], reads); }
#else
#define countWork(n)
#define countReached()
#define countReads(n)
#endif

// Work counters of the instrumented variants; never compiled into a shader that is timed. COUNTER_<name> and COUNTERS come from the
// counters that techniques declare.
#ifdef COUNT
#include "generated/counters.glsl"
layout(std430) buffer CounterBuffer { uint counters[]; }; // 64 stripes, so that lanes contend less, of two words a counter: low, high
#ifdef COMPUTE_STAGE
uint counterStripe() { return gl_WorkGroupID.x * 7u + gl_WorkGroupID.y * 13u & 63u; }
#else
uint counterStripe() { return uint(gl_FragCoord.x) * 7u + uint(gl_FragCoord.y) * 13u & 63u; }
#endif
void countUp(uint counter, uint amount) {
    if (amount == 0u) return;
    uint at = 2u * (counterStripe() * COUNTERS + counter);
    uint before = atomicAdd(counters[at], amount);
    if (before + amount < before) atomicAdd(counters[at + 1u], 1u);
}
#define countOf(counter, amount) countUp(counter, amount)
#else
#define countOf(counter, amount)
#endif
/// An invocation, and the lights that it takes up.
#ifdef COUNT
void countWork(uint lightEvaluations) {
    countOf(COUNTER_fragments, 1u);
    countOf(COUNTER_lightEvaluations, lightEvaluations);
}
#else
#define countWork(n)
#endif
/// A light that reaches the fragment; filtered reads of a material's textures.
#define countReached() countOf(COUNTER_lightsReached, 1u)
#define countReads(n) countOf(COUNTER_textureReads, n)

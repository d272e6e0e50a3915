// What each light costs and gives: evaluations, and the luminance that it adds to the picture. Of the LEDGER variants only.
#ifdef LEDGER
struct LedgerEntry {
    uint evaluations;
    uint low;  // sum of luminances, 64 bits of fixed point: exact, whatever the order
    uint high;
    uint taps; // depths compared or searched in its shadow maps
    uint cells;   // of air that it was taken up for
    uint airLow;  // as above, of what the air shows of it
    uint airHigh;
    uint pad;
};
layout(std430) buffer LedgerBuffer { LedgerEntry ledger[]; };
#ifndef FLAT_STAGE
layout(std430) buffer LedgerObjectBuffer { uvec2 ledgerObjects[]; }; // by draw: fragments shaded, lights taken up for them
#endif
const float ledgerUnit = 1048576.0; // steps in the luminance that exposure makes 1
uint ledgerLight = 0u; // that is taken up
#define enterTaps(n) atomicAdd(ledger[ledgerLight].taps, n)
uint stepsOf(vec3 radiance) { // Rec. 709
    return uint(clamp(dot(radiance, vec3(0.2126, 0.7152, 0.0722)) * parameters.tone.x * ledgerUnit + 0.5, 0.0, 4.0e9));
}
void enterLuminance(uint light, vec3 radiance) {
    uint steps = stepsOf(radiance);
    if (steps == 0u) return;
    uint before = atomicAdd(ledger[light].low, steps);
    if (before + steps < before) atomicAdd(ledger[light].high, 1u);
}
/// A light of a flat stage at a pixel of what it is drawn to.
void enterFlat(uint light, vec3 value) {
    atomicAdd(ledger[light].evaluations, 1u);
    enterLuminance(light, value);
}
#ifdef FLAT_STAGE
#elif defined(COMPUTE_STAGE)
void enterAir(uint light, vec3 radiance) {
    atomicAdd(ledger[light].cells, 1u);
    uint steps = stepsOf(radiance);
    if (steps == 0u) return;
    uint before = atomicAdd(ledger[light].airLow, steps);
    if (before + steps < before) atomicAdd(ledger[light].airHigh, 1u);
}
#else
uniform sampler2D ledgerTransmittance; // of the panes before the surface; 0 for a surface that the picture does not show
uniform sampler2D ledgerDepth;
#ifdef LEDGER_SURFACE
uint ledgerDraw = 0u; // of the fragment: set before it is lit
void enterFragment(uint draw) {
    ledgerDraw = draw;
    atomicAdd(ledgerObjects[draw].x, 1u);
}
#else
uniform sampler2D ledgerDraws; // of a G-buffer's surfaces, plus one
#define ledgerDraw (uint(texelFetch(ledgerDraws, ivec2(gl_FragCoord.xy), 0).r) - 1u)
#endif
/// weight: what stands between the surface and the eye lets through.
void enterWeighted(uint light, vec3 radiance, float weight) {
    atomicAdd(ledger[light].evaluations, 1u);
    atomicAdd(ledgerObjects[ledgerDraw].y, 1u);
    enterLuminance(light, radiance * weight);
}
/// What the picture shows of an opaque surface: nothing where another one stands before it.
float shownOfSurface() {
    ivec2 p = ivec2(gl_FragCoord.xy);
#ifdef LEDGER_SURFACE
    float shown = texelFetch(ledgerDepth, p, 0).r == gl_FragCoord.z ? 1.0 : 0.0;
#else
    const float shown = 1.0; // of a G-buffer's surface
#endif
    return shown * texelFetch(ledgerTransmittance, p, 0).r;
}
void enterLight(uint light, vec3 radiance) { enterWeighted(light, radiance, shownOfSurface()); }
/// More of a light that is entered already.
void enterMore(uint light, vec3 radiance) { enterLuminance(light, radiance * shownOfSurface()); }
#endif
#else
#define enterTaps(n)
#define enterLight(light, radiance)
#define enterMore(light, radiance)
#define enterWeighted(light, radiance, weight)
#define enterFragment(draw)
#endif

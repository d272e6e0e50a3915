// Surroundings as ambient light by a small map of irradiance over pi, and the strongest parts one by one. The reference in double is src/core/ambient/environment.h.
#include "include/environment.glsl"
uniform samplerCube surroundingIrradiance;
/// w: how far the part spreads, radians; where the horizon cuts it, a strip as wide.
vec3 strongPart(vec3 d, vec4 red, vec4 green, vec4 blue) {
    vec3 v = vec3(dot(red.xyz, d), dot(green.xyz, d), dot(blue.xyz, d)), edge = red.w * vec3(length(red.xyz), length(green.xyz), length(blue.xyz));
    vec3 cut = clamp(v + edge, vec3(0.0), 2.0 * edge);
    return max(v - edge, vec3(0.0)) + cut * cut / max(4.0 * edge, vec3(1e-20));
}
vec3 environmentDiffuse(vec3 point, vec3 n) {
    vec3 d = environmentDirection(n);
    return (textureLod(surroundingIrradiance, d, 0.0).rgb +
            strongPart(d, parameters.environmentPart0Red, parameters.environmentPart0Green, parameters.environmentPart0Blue) +
            strongPart(d, parameters.environmentPart1Red, parameters.environmentPart1Green, parameters.environmentPart1Blue) +
            strongPart(d, parameters.environmentPart2Red, parameters.environmentPart2Green, parameters.environmentPart2Blue) +
            strongPart(d, parameters.environmentPart3Red, parameters.environmentPart3Green, parameters.environmentPart3Blue)) *
           parameters.environmentForm.z;
}

// Surroundings as ambient light by nine numbers. The reference in double is src/core/sky/sky_model.h.
/// Harmonics of order 2 of their radiance, as irradiance over pi by normal (R. Ramamoorthi and P. Hanrahan, 2001).
vec3 environmentDiffuse(vec3 point, vec3 n) {
    vec3 sum = 0.282095 * parameters.environment0.rgb;
    sum += 0.488603 * (n.y * parameters.environment1.rgb + n.z * parameters.environment2.rgb + n.x * parameters.environment3.rgb);
    sum += 1.092548 * (n.x * n.y * parameters.environment4.rgb + n.y * n.z * parameters.environment5.rgb + n.x * n.z * parameters.environment7.rgb);
    sum += 0.315392 * (3.0 * n.z * n.z - 1.0) * parameters.environment6.rgb + 0.546274 * (n.x * n.x - n.y * n.y) * parameters.environment8.rgb;
    return max(sum, vec3(0.0));
}

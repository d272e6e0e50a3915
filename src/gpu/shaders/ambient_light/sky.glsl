// The sky as ambient light: harmonics of order 2 of its radiance, as irradiance over pi by normal (R. Ramamoorthi and P. Hanrahan, 2001).
// The reference in double is src/core/sky/sky_model.h.
vec3 skyAmbient(vec3 point, vec3 n) {
    vec3 sum = 0.282095 * parameters.ambientSky0.rgb;
    sum += 0.488603 * (n.y * parameters.ambientSky1.rgb + n.z * parameters.ambientSky2.rgb + n.x * parameters.ambientSky3.rgb);
    sum += 1.092548 * (n.x * n.y * parameters.ambientSky4.rgb + n.y * n.z * parameters.ambientSky5.rgb + n.x * n.z * parameters.ambientSky7.rgb);
    sum += 0.315392 * (3.0 * n.z * n.z - 1.0) * parameters.ambientSky6.rgb + 0.546274 * (n.x * n.x - n.y * n.y) * parameters.ambientSky8.rgb;
    return max(sum, vec3(0.0));
}

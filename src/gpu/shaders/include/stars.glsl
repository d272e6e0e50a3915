// A seeded field of stars, one at most in each of 6 x 48 x 48 cells of the sky. The reference in double is src/core/sky/stars.h.

const int starCells = 48;

uint starHash(uint v) { // M. Jarzynski and M. Olano, 2020
    uint state = v * 747796405u + 2891336453u, word = ((state >> ((state >> 28u) + 4u)) ^ state) * 277803737u;
    return (word >> 22u) ^ word;
}
float starUnit(uint hash) { return (float(hash >> 8) + 0.5) / 16777216.0; }
int starCell(float c) { return clamp(int((0.5 + atan(c) * 0.63661977) * float(starCells)), 0, starCells - 1); }
float starPlace(int cell, uint h) { return tan(((float(cell) + 0.2 + 0.6 * starUnit(h)) / float(starCells) - 0.5) * 1.57079633); }

/// Radiance above the air, cd/m2; each star spread over 1.3 pixels around it.
vec3 starRadiance(vec3 d, float pixelAngle, uint seed, float faintest) {
    vec3 a = abs(d);
    int axis = a.x >= a.y && a.x >= a.z ? 0 : a.y >= a.z ? 1 : 2, u = (axis + 1) % 3, v = (axis + 2) % 3;
    int face = 2 * axis + (d[axis] < 0.0 ? 1 : 0), i = starCell(d[u] / a[axis]), j = starCell(d[v] / a[axis]);
    uint h0 = starHash(uint((face * starCells + j) * starCells + i) ^ starHash(seed)), h1 = starHash(h0), h2 = starHash(h1), h3 = starHash(h2);
    float magnitude = max(6.5 + log2(starUnit(h0) / 0.65) * (0.30103 / 0.51), -1.5);
    vec3 place = vec3(0.0);
    place[axis] = d[axis] < 0.0 ? -1.0 : 1.0;
    place[u] = starPlace(i, h1);
    place[v] = starPlace(j, h2);
    float radius = min(1.3 * pixelAngle, 0.0063), x = length(d - normalize(place)) / radius;
    if (magnitude > faintest || x >= 1.0) return vec3(0.0);
    float weight = 3.0 / (3.14159265 * radius * radius) * (1.0 - x * x) * (1.0 - x * x);
    vec3 color = mix(vec3(1.0, 0.76, 0.52), vec3(0.70, 0.83, 1.0), starUnit(h3));
    return color / dot(color, vec3(0.2126, 0.7152, 0.0722)) * (exp2(-1.3287712 * (magnitude + 14.18)) * weight);
}

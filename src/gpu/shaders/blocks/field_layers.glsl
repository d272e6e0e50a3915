vec4 layer_blockNormal(BlockPixel p) { return vec4(p.normal, 1.0); }
/// A colour for each chunk of 32 cells, white where two meet.
vec4 layer_blockChunks(BlockPixel p) {
    vec3 inside = mod(p.local, 32.0), line = min(inside, 32.0 - inside);
    line[p.face >> 1] = 32.0; // along the face alone
    float border = min(line.x, min(line.y, line.z)) < 0.35 ? 1.0 : 0.0;
    ivec3 chunk = p.cell >> 5;
    vec3 color = 0.18 + 0.22 * vec3(chunk & 1) + 0.12 * vec3(chunk >> 1 & 1);
    return vec4(mix(color * (0.75 + 0.25 * p.normal.y), vec3(1.0), border), 1.0);
}

#version 450 core
// The first cell along each pixel's ray, through a sparse tree of 64 parts a node; core/blocks/cell_tree.h holds the same in double.
#include "blocks/world.glsl"
#include "include/count.glsl"
struct TreeNode {
    uint low, high, first, pad;
};
layout(std430) readonly buffer BlockTreeBuffer { TreeNode treeNodes[]; };
layout(std430) readonly buffer BlockTreeCellBuffer { uint treeCells[]; }; // four materials each
uniform int parts;
in vec2 ndc;
layout(location = 0) out vec4 outSurface;
const float never = 3.4e38;

struct TreeHit {
    uint material;
    int face;
    float distance;     // along the ray, in lengths of its direction
};

TreeHit traceTree(BlockPartData part, vec3 from, vec3 direction, float most) {
    TreeHit miss = TreeHit(0u, 0, most);
    int levels = part.tree.y;
    if (levels == 0) return miss;
    int edge = 1 << (2 * levels), axis = 0;
    vec3 inverse = vec3(direction.x != 0.0 ? 1.0 / direction.x : never, direction.y != 0.0 ? 1.0 / direction.y : never, direction.z != 0.0 ? 1.0 / direction.z : never);
    vec3 p = -from * inverse, q = (float(edge) - from) * inverse;
    vec3 near = min(p, q), far = max(p, q);
    float t = 0.0, end = min(most, min(far.x, min(far.y, far.z)));
    for (int a = 0; a < 3; ++a)
        if (near[a] > t) {
            t = near[a];
            axis = a;
        }
    if (!(t < end)) return miss;
    bool entered = t > 0.0;
    ivec3 cell = clamp(ivec3(floor(from + direction * t)), ivec3(0), ivec3(edge - 1));
    uint root = uint(part.tree.x), steps = 0u;
    for (int guard = 0; guard < 4096 && t < end; ++guard) {
        ++steps;
        TreeNode n = treeNodes[root];
        int level = levels;
        for (;; --level) {
            int shift = 2 * (level - 1);
            ivec3 c = cell >> shift & 3;
            uint i = uint(c.x | c.z << 2 | c.y << 4);
            uint word = i < 32u ? n.low : n.high, bit = 1u << (i & 31u);
            if ((word & bit) == 0u) break;
            uint place = n.first + uint(bitCount(word & (bit - 1u))) + (i < 32u ? 0u : uint(bitCount(n.low)));
            if (level == 1) {
                if (!entered) break;
                countOf(COUNTER_cellSteps, steps);
                return TreeHit(treeCells[place >> 2] >> (8u * (place & 3u)) & 255u, 2 * axis + (direction[axis] > 0.0 ? 1 : 0), t);
            }
            n = treeNodes[place];
        }
        int shift = 2 * (level - 1), size = 1 << shift;
        ivec3 low = cell >> shift << shift;
        vec3 at = (vec3(low) + vec3(greaterThan(direction, vec3(0.0))) * float(size) - from) * inverse;
        at = mix(at, vec3(never), equal(direction, vec3(0.0)));
        axis = at.x <= at.y ? (at.x <= at.z ? 0 : 2) : (at.y <= at.z ? 1 : 2);
        t = at[axis];
        ivec3 there = clamp(ivec3(floor(from + direction * t)), low, low + size - 1);
        there[axis] = direction[axis] > 0.0 ? low[axis] + size : low[axis] - 1;
        cell = there;
        if (cell[axis] < 0 || cell[axis] >= edge) break;
        entered = true;
    }
    countOf(COUNTER_cellSteps, steps);
    return miss;
}

void main() {
    countWork(0u);
    vec4 far = frame.inverseViewProjection * vec4(ndc, 1.0, 1.0); // a point on the near plane
    vec3 d = normalize(far.xyz / far.w - frame.eye.xyz);
    float best = never;
    vec3 surface = vec3(0.0);
    for (int i = 0; i < parts; ++i) {
        BlockPartData part = blockParts[i];
        TreeHit h = traceTree(part, (part.fromWorld * vec4(frame.eye.xyz, 1.0)).xyz, mat3(part.fromWorld) * d, best);
        if (h.distance < best) {
            best = h.distance;
            surface = vec3(float(h.material), float(h.face), float(i));
        }
    }
    if (best == never) {
        outSurface = vec4(0.0);
        gl_FragDepth = 0.0;
        return;
    }
    vec4 clip = frame.viewProjection * vec4(frame.eye.xyz + d * best, 1.0);
    outSurface = vec4(surface, 255.0) / 255.0;
    gl_FragDepth = clamp(clip.z / clip.w, 1e-30, 1.0);
}

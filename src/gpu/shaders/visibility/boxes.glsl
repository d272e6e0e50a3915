// Boxes of the objects in the frustum, by draw; a little larger than they are, so that rounding hides nothing.
struct DrawBox {
    vec3 low;    // world, metres
    uint object; // number in the scene
    vec3 high;
    uint around; // 1: the eye is within it, or nearly
};
layout(std430) readonly buffer DrawBoxBuffer { DrawBox boxes[]; };

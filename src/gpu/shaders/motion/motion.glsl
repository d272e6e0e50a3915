// Movement in the picture since the frame before. The reference in double is src/core/motion/motion.h.
struct MotionEye {
    mat4 now; // world to clip, without jitter
    mat4 before;
};
layout(std430) readonly buffer MotionEyeBuffer { MotionEye motionEyes[]; };
layout(std430) readonly buffer MotionDrawBuffer { mat4 toBefore[]; }; // world now to world before, for each draw

const float motionUnknown = 1e6; // it was behind the camera

/// Pixels to the right and down between two places in clip space.
vec2 motionBetween(vec4 before, vec4 now) {
    if (before.w <= 1e-6) return vec2(motionUnknown);
    vec2 moved = 0.5 * (now.xy / now.w - before.xy / before.w);
    return vec2(moved.x * float(frame.width), -moved.y * float(frame.height));
}

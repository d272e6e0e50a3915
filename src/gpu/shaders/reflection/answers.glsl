// What the screen answers to a mirrored ray. C++ side: src/core/ambient/reflection.h.
#define ANSWER_NOT_ASKED 0.0
#define ANSWER_HIT 1.0
#define ANSWER_LEFT -1.0       // the ray leaves the picture
#define ANSWER_TOWARD_EYE -2.0 // it comes back past the eye
#define ANSWER_HIDDEN -3.0     // it passes behind what the picture shows
#define ANSWER_BACK -4.0       // it meets a back
#define ANSWER_TOO_FAR -5.0    // nothing within reach, or out of steps

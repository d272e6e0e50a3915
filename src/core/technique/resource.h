#pragma once
#include <cstddef>
#include <string>
#include <vector>

namespace mirolux {

enum class Format {
    rgba8,
    r8,
    rg8,
    rg16,
    r32f,
    rg32f,
    rgba16f,
    rgba32f,
    rgb16f,
    rgb9e5,
    bc6h,
    depth32f,
    depth32fStencil8,
    words
};

/// The one table of formats: what they are called and what a texel takes. The device's names for them are in
/// gpu/gl/formats.h, in the same order.
struct FormatInfo {
    Format format;
    const char* word;
    int bytes; // of a texel
};
const FormatInfo& info_of(Format format);

/// How long a resource keeps its content.
enum class Life {
    frame,  // within one frame: memory may be shared with what lives before or after
    scene,  // as long as its shape stays: whatever else a frame changes, its content is still there
    history // from frame to frame: shaders read last frame's as <sampler>Previous; black after a cut or a change of
            // size
};

/// The only description of a target or a buffer that a frame uses.
struct ResourceSpec {
    std::string name{};    // as the anatomy shows it
    std::string sampler{}; // what shaders call it; empty: no shader reads it
    Format format = Format::rgba8;
    std::string formatOf = {}; // takes the format of this resource instead
    double scale = 1.0;        // of the size that is rendered, when width is 0
    bool ofShown = false;      // or of the size of the picture that is shown
    int width = 0, height = 0; // pixels; 0: by scale
    int mips = 1;              // levels
    int samples = 1;           // of a pixel; more than one: no shader reads it but those that resolve it
    int cubes = 0;             // a cube map array of so many, six layers each; 0: none
    int layers = 0;            // an array of so many, the same for both eyes; 0: none
    Life life = Life::frame;
    bool fromTop = false;     // its first row is the picture's top one; of other targets the bottom one
    bool forBothEyes = false; // with stereo there is one, not one for each eye
    bool ownDepths = false;   // a depth target whose values are not distances from the eye: read as they are
    bool kept = false;        // looked at after the last pass: its memory is not shared
    std::size_t entries = 0;  // of a buffer: how many words of 4 bytes, of one eye; width and height mean nothing then
    std::string formatNote = {}; // said behind the format: "octahedral", "sRGB"
};

/// A resource in its place in a plan.
struct PlannedResource {
    ResourceSpec spec;
    int width = 0, height = 0, layers = 1; // layers: 2 with stereo, one for each eye; 6 a cube
    int first = -1, last = -1;             // passes that use it, by index; -1: none does
    int allocation = -1;                   // into FramePlan::allocations
    std::size_t bytes = 0;
};

/// Memory that one or more resources live in, one after the other.
struct Allocation {
    Format format = Format::rgba8;
    int width = 0, height = 0, layers = 1, mips = 1, samples = 1;
    std::size_t bytes = 0;
    std::vector<int> resources; // into FramePlan::resources, in the order of their lives
};

} // namespace mirolux

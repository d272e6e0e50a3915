#pragma once
#include "core/account/surface_sample.h"
#include "core/cull/light_grid.h"
#include "core/image/image.h"
#include "core/plan/frame_plan.h"
#include <map>
#include <optional>

namespace mirolux {

/// The outcome of the clock's acceptance test: known work of two sizes on both clocks.
struct ClockReport {
    bool gpuAccepted = false;
    double fencedSmallMs = 0, fencedLargeMs = 0, gpuSmallMs = 0, gpuLargeMs = 0;
    std::string verdict; // one sentence with the evidence
};

struct DeviceInfo {
    std::string renderer, vendor, version; // as the driver names them
    std::string build;                     // of Mirolux
    ClockReport clock;

    /// A rasteriser on the processor, by the names that the drivers give.
    bool software() const {
        for (const char* name : {"llvmpipe", "softpipe", "swrast", "SwiftShader"})
            if (renderer.find(name) != std::string::npos) return true;
        return false;
    }
};

/// A target of the plan that a caller wants with its plain values.
struct TargetRead {
    std::string target;
    std::string after{};  // as it is when this pass has run; empty: the last that uses it
    int layer = 0;        // of an array: the eye
    int mip = 0;          // level
    bool stencil = false; // of a depth target: the marks in the place of the depth

    bool operator==(const TargetRead&) const = default;
};

/// What a caller wants beside the picture.
struct RenderOptions {
    bool picture = true;   // RGBA8 of the layer `show`; with stereo, the left eye's
    bool bothEyes = false; // stereo: the final picture of the right eye stands beside the left one's, twice as wide
    std::string show = "final";           // layer in the picture
    int light = -1;                       // Light::id that a layer of one light shows
    int frames = 0;                       // over 0: reset history and render this many, the last one at the view's time
    double framesPerSecond = 60.0;        // scene time between those
    std::vector<std::string> floatLayers; // scene-linear float images ("final" = the radiance before exposure)
    std::vector<TargetRead> targets;      // to return with their plain values; buffers as rows of 1,024 words
    bool writes = false;                  // a thumbnail of each target after each pass that writes it
    std::vector<std::string> thumbnails;  // layers to return at thumbnail size, of those that this frame makes
    int thumbnailWidth = 112, thumbnailHeight = 63;
    int fencedSamples = 1;     // frames timed pass by pass
    int wholeSamples = 0;      // frames timed from start to end without fences between passes
    bool wholeQueries = false; // run the GPU clock's queries inside whole frames, and leave their answers: what they
                               // cost is then in wholeMs
    bool gpuClock = false;     // time passes by timer queries instead of fences
    bool lightLists = false;   // return the light lists of tiled and clustered paths
    std::optional<glm::ivec2> probe; // return what covers this pixel (column, row from the top)
    int injectedWork =
        0; // rounds of known work in a pass of its own at the end: a slowdown of known size, for the self-test
    double gatherMs = 0; // over 0: what is gathered once (lobes of surroundings and probes) goes on for about so long a
                         // frame; FrameRecord::told["gathering"] then has how many draws are done, and of how many.
                         // Light that floods from cell to cell then goes on for `flood.budget` a frame, and
                         // told["flooding"] has how many cells wait
    bool adapted = false; // metered exposure stands where it settles, whatever frame was before
    bool ledger = false;  // return what each light costs and gives, from instrumented variants after all timing
    bool seen = false;    // return which objects show, and which were drawn
    bool count = false;   // run the instrumented variants once, after all timing
};

/// Name of the pass that RenderOptions::injectedWork adds.
inline constexpr const char* injected_pass = "injected";

struct PassRecord {
    std::string name, family;
    std::vector<double> ms; // one for each sampled frame
    Work work;              // draws and triangles always; fragments and light evaluations when counted
    bool counted = false;
};

/// A target as a pass left it, small, in the range of its own values.
struct WrittenTarget {
    std::string pass, target;
    ByteImage image;
};

/// One answered request.
struct FrameRecord {
    std::vector<PassRecord> passes;
    std::vector<double> wholeMs; // unfenced frames
    double answerMs = 0;         // from the session's taking the request to its record
    int width = 0, height = 0;
    std::string clock;         // "fenced" or "gpu"
    bool instrumented = false; // an instrumented shader variant ran inside a timed frame; must never be true
    std::uint64_t droppedLights = 0;
    int droppedObjects = 0, lightsInScene = 0, lightsInView = 0, lightsFaded = 0;
    ByteImage picture;
    std::map<std::string, FloatImage> floats;
    std::vector<FloatImage> targets; // in the order of RenderOptions::targets; depth in metres along the view axis
    std::map<std::string, ByteImage> thumbnails;
    std::vector<WrittenTarget> writes;          // in the order of the passes
    cull::LightGrid lightGrid, transparentGrid; // when asked for; columns 0 otherwise
    std::optional<PixelProbe> probe;
    /// What techniques tell of the frame beside pictures and costs, by name: "shadowAges", frames since each map was
    /// drawn, by its place in ShadowSet::maps.
    std::map<std::string, std::vector<double>> told;
    /// False while light is still gathered or spread: another frame would be another.
    bool settled() const { return !told.contains("gathering") && !told.contains("flooding"); }
    std::vector<ObjectShare> objects; // with the ledger: those in view
    /// With RenderOptions::seen, by number in the scene: pixels that show each object, whatever visibility leaves out,
    /// and whether it was drawn. Blended surfaces show where no opaque one lies before them.
    std::vector<std::uint32_t> seenPixels;
    std::vector<bool> drawn;
    std::vector<LightShare> ledger; // in the order of the view's lights (DrawList)
    std::vector<CheapShare> cheap;  // with the ledger: of the cheap lights that the frame has
};

struct Workload; // core/cost/device_profile.h

/// The one interface to rendering: in process (gpu) or through the worker (client).
class RenderSession {
public:
    virtual ~RenderSession() = default;
    virtual Result<FrameRecord> render(const Scene& scene, const Setup& setup, const View& view,
                                       const RenderOptions& options) = 0;
    virtual Result<DeviceInfo> device() = 0;
    /// Times known workloads on this device, each `sweeps` times; what device profiles are fitted to. Takes about a
    /// minute on a software device.
    virtual Result<std::vector<Workload>> calibrate(int sweeps);
};

} // namespace mirolux

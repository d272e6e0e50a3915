#pragma once
#include "core/plan/frame_plan.h"
#include "gpu/gl/objects.h"
#include <deque>
#include <map>
#include <memory>

namespace mirolux::gpu {

/// The resources of one plan on the device: a texture for each of its allocations (an array of two layers with stereo),
/// a buffer for each of its buffers, framebuffers as passes ask for them.
class ResourceSet {
public:
    /// eye 0 or 1: that eye's layer as a texture of its own, of cubes that face; -1: all layers at once (without stereo
    /// the same).
    GLuint texture(const std::string& resource, int eye) const;
    /// Last frame's content of a history resource.
    GLuint previous(const std::string& resource, int eye) const;
    GLuint buffer(const std::string& resource) const;
    /// Colour attachments in their order, and the depth (empty: none). Complete, or an Error that says why not.
    Result<GLuint> framebuffer(const std::vector<std::string>& colors, const std::string& depth, int eye) const;

    /// Tells the memory of a resource apart from any other for good: whoever remembers what it held knows by it whether
    /// it is still there.
    std::uint64_t serial(const std::string& resource) const { return memory(resource, false).serial; }

    /// Last frame's history becomes what is read; the other half is written next.
    void turn_history();
    /// History as after a cut: black.
    void clear_history();
    /// Takes the history of another set for its own, where both hold the same resources in the same shape; false, with
    /// nothing changed, where they do not.
    bool take_history(ResourceSet& other);

private:
    friend class ResourcePool;
    struct Memory {
        Texture whole;
        std::vector<Texture> layers; // views of each, where there are several
        Buffer buffer{"plan"};
        std::uint64_t serial = 0;
        GLuint layer(int number) const {
            return number >= 0 && number < static_cast<int>(layers.size())
                       ? layers[static_cast<std::size_t>(number)].name()
                       : whole.name();
        }
    };
    using SharedMemory = std::shared_ptr<Memory>;
    /// Of resources that live longer than sets: by name, the newest shape of each.
    using SceneMemory = std::map<std::string, std::pair<std::string, SharedMemory>>;
    const Memory& memory(const std::string& resource, bool previous) const;
    Result<void> make(const FramePlan& plan, SceneMemory& scene);

    std::string key_;
    int layers_ = 1;
    std::map<std::string, int> places_;           // resource -> allocation
    std::map<std::string, Format> formats_;       // of resources
    std::string historyKey_;                      // of what lives from frame to frame: names, formats and sizes
    std::vector<SharedMemory> memories_;          // parallel to the plan's allocations
    std::map<std::string, SharedMemory> history_; // the other half of history resources
    int written_ = 0;                             // which half of history is written: memories_ (0) or history_ (1)
    mutable std::map<std::string, Framebuffer> framebuffers_;
};

/// The few most recently used sets; older ones are freed, so that resizing does not grow without bound. A set that the
/// device refused is not kept.
class ResourcePool {
public:
    Result<ResourceSet*> set_of(const FramePlan& plan);
    /// History goes on from one set to another, which only differ in what lives within a frame (the room for light
    /// lists, as lights come into view); false if it cannot.
    bool carry_history(const ResourceSet* from, ResourceSet* to);
    void clear() {
        sets_.clear();
        scene_.clear();
    }

private:
    std::deque<std::unique_ptr<ResourceSet>> sets_;
    ResourceSet::SceneMemory scene_;
};

/// A target outside of plans: views of layers, known work, what the ledger needs.
struct Scratch {
    int width = 0, height = 0;
    std::vector<Texture> colors;
    Texture depth;
    Framebuffer framebuffer;
};
/// Scratch targets by name; each is made anew when its size or formats change.
class ScratchPool {
public:
    /// depth: a format, or GL_NONE.
    Result<Scratch*> get(const std::string& name, int width, int height, const std::vector<GLenum>& colors,
                         GLenum depth);

private:
    struct Kept {
        std::vector<GLenum> formats;
        Scratch scratch;
    };
    std::map<std::string, Kept> kept_;
};

/// An Error unless the framebuffer is complete.
Result<void> check_complete(GLuint framebuffer, const std::string& name);

} // namespace mirolux::gpu

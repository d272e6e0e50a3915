#pragma once
#include "core/scene/scene.h"
#include <span>

struct RTCDeviceTy;
struct RTCSceneTy;
struct RTCGeometryTy;
struct RTCFilterFunctionNArguments;

namespace mirolux {

struct Ray {
    glm::vec3 origin{0.0f}, direction{0.0f, 0.0f, -1.0f}; // metres; unit direction
};

struct RayHit {
    float distance = 0.0f; // metres along the unit direction
    int object = -1;       // -1: nothing
    std::uint32_t triangle = 0;
    glm::vec3 normal{0.0f, 1.0f, 0.0f}; // of the triangle, unit, facing the ray's origin
    float alpha = 1.0f;                 // of a masked or blended surface there; 1 of an opaque one
    float u = 0.0f, v = 0.0f;           // barycentric: of the triangle's second and third corner
    bool front = true;                  // met where its front is
};

/// What stands in a ray's way: what is drawn, or what casts shadows.
enum class Blocks { drawn, casting };

/// A blended surface stops a ray where it covers at least this much of what lies behind it.
inline constexpr float least_cover = 0.1f;

/// A scene as rays meet it, and as pictures show it: hidden objects are not there, masked surfaces have their holes,
/// single-sided ones are seen from the front only, blended ones count from `least_cover` on. Objects that cast unseen
/// stand only in the way of light, those that cast nothing in that of everything else. A tree over the triangles
/// of each primitive (made once; of bent ones fitted anew as they bend) and one over the objects (made again when they
/// move); intersection by Embree (I. Wald
/// et al., Embree: A Kernel Framework for Efficient CPU Ray Tracing, 2014). Queries may come from any number of
/// threads, but not while place() runs.
class RayScene {
public:
    /// Keeps the asset; its vertices are not copied. Costs about a second for ten million triangles.
    explicit RayScene(const Scene& scene);
    ~RayScene();
    RayScene(const RayScene&) = delete;
    RayScene& operator=(const RayScene&) = delete;

    /// Proxies are not in it: they stand for what is.
    /// Takes another placement of the same objects (of this asset, or of the same file read without its pictures), or
    /// what else is built in the same file's asset: trees of primitives that are still there stay.
    void place(const Scene& scene);
    bool holds(const Scene& scene) const { return asset_ == scene.asset && placed_ == scene.placed; }
    const std::shared_ptr<const SceneAsset>& asset() const { return asset_; }
    const glm::mat4& transform(std::size_t object) const { return transforms_[object]; } // to world
    /// An object's vertices as they stand, in its own space.
    const std::vector<Vertex>& vertices(std::size_t object) const;
    bool receives(std::size_t object) const { return receives_[object]; } // shadows
    bool shown(std::size_t object) const { return shown_[object] && casts_[object] != Casting::unseen; }

    /// Nearest surface beyond `from` metres, objects of `without` left out.
    RayHit nearest(const Ray& ray, float from = 0.0f, std::span<const int> without = {}) const;
    /// Nearest surface beyond `from` metres that stops a lamp's light, from either side.
    RayHit nearest_caster(const Ray& ray, float from) const;
    /// True if anything opaque or masked lies between `from` and `to` metres.
    bool occluded(const Ray& ray, float from, float to) const;

    /// Nearest surface beyond `from` metres of any alpha at all; seen: single-sided ones from the front only, else from
    /// either side. What a light's way through the scene meets, one after the other.
    RayHit any_surface(const Ray& ray, float from, bool seen) const;
    /// Share of light that comes from `from` to `to` metres: 0 behind anything opaque or masked, whatever its side;
    /// each blended surface takes its alpha.
    float transmitted(const Ray& ray, float from, float to, Blocks blocks = Blocks::drawn) const;
    /// The same of several rays that lie close together, from where they begin; faster than one by one.
    void transmitted(std::span<const Ray> rays, std::span<const float> to, std::span<float> out,
                     Blocks blocks = Blocks::drawn) const;

private:
    struct Context;
    RayHit hit(Context context, const Ray& ray, float from) const;
    static void filter(const RTCFilterFunctionNArguments* arguments);
    void take(const Scene& scene);
    void set_instance(std::size_t object, const Object& placed);
    void bend(std::size_t object, const Object& placed);

    std::shared_ptr<const SceneAsset> asset_;
    std::shared_ptr<const PlacedObjects> placed_;
    RTCDeviceTy* device_ = nullptr;
    std::vector<RTCSceneTy*> primitives_;   // a tree each; null without triangles
    std::vector<RTCGeometryTy*> instances_; // parallel to the objects; null without triangles
    std::vector<glm::mat4> transforms_;     // as they stand in the tree
    std::vector<std::uint64_t> shapes_;     // Object::shape, of those
    std::vector<bool> shown_;
    std::vector<Casting> casts_;
    std::vector<bool> receives_;
    RTCSceneTy* top_ = nullptr;
};

/// Alpha of a primitive's surface at a point of a triangle (barycentric u of the second corner, v of the third), as the
/// shader has it at the finest mip: base colour's, vertex colour's and texture's.
float surface_alpha(const SceneAsset& asset, const Primitive& primitive, std::uint32_t triangle, float u, float v);

} // namespace mirolux

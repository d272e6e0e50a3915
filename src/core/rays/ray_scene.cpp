#include "core/rays/ray_scene.h"
#include "core/motion/scene_at.h"
#include "core/rays/texture_lookup.h"
#include "core/scene/object_edit.h"
#include <cassert>
#include <cmath>
#include <embree3/rtcore.h>

namespace mirolux {

float surface_alpha(const SceneAsset& asset, const Primitive& p, std::uint32_t triangle, float u, float v) {
    const Material& m = asset.materials[p.material < 0 ? asset.materials.size() - 1 : std::size_t(p.material)];
    const Vertex* corner[3];
    for (std::uint32_t k = 0; k < 3; ++k)
        corner[k] = &p.vertices[p.indices[3 * triangle + k]];
    const float weight[3] = {1 - u - v, u, v};
    float color = 0;
    glm::vec2 uv(0.0f);
    for (int k = 0; k < 3; ++k) {
        color += weight[k] * static_cast<float>(corner[k]->color >> 24) / 255.0f;
        uv += weight[k] * corner[k]->uv;
    }
    const int texture = m.textures[static_cast<int>(TextureSlot::baseColor)];
    return m.baseColor.a * color * (texture >= 0 ? texture_alpha(asset, texture, uv) : 1.0f);
}

/// What the filter asks for: Embree's context with ours behind it.
struct RayScene::Context {
    RTCIntersectContext embree;
    const RayScene* scene;
    std::span<const int> without;
    float cover; // least alpha of a blended surface that stops the ray; over 1: none does
    bool seen;   // single-sided surfaces are met from the front only
    Blocks blocks = Blocks::drawn;
    float* through = nullptr; // of rays toward a light, by their number: what the panes on the way let through

    bool takes(const RTCFilterFunctionNArguments& a, unsigned lane) const;
};

/// Whether what a ray has met is there for it.
bool RayScene::Context::takes(const RTCFilterFunctionNArguments& a, unsigned i) const {
    const SceneAsset& asset = *scene->asset_;
    const unsigned object = RTCHitN_instID(a.hit, a.N, i, 0);
    if (scene->casts_[object] == (blocks == Blocks::casting ? Casting::no : Casting::unseen)) return false;
    const Primitive& p =
        asset.primitives[static_cast<std::size_t>(asset.objects[static_cast<std::size_t>(object)].primitive)];
    const Material& m = asset.materials[p.material < 0 ? asset.materials.size() - 1 : std::size_t(p.material)];
    if (std::find(without.begin(), without.end(), static_cast<int>(object)) != without.end()) return false;
    const bool lampsSide = blocks == Blocks::casting && scene->casts_[object] == Casting::front;
    if (!m.doubleSided &&
        (seen || lampsSide)) { // ray and normal are in object space here, where mirroring does not turn faces round
        // Embree's normal of a counter-clockwise triangle points to where it is seen from.
        const float facing = RTCRayN_dir_x(a.ray, a.N, i) * RTCHitN_Ng_x(a.hit, a.N, i) +
                             RTCRayN_dir_y(a.ray, a.N, i) * RTCHitN_Ng_y(a.hit, a.N, i) +
                             RTCRayN_dir_z(a.ray, a.N, i) * RTCHitN_Ng_z(a.hit, a.N, i);
        if (seen ? facing > 0.0f : facing < 0.0f) return false; // rays that ask for lamps come from behind them
    }
    if (m.alphaMode == AlphaMode::opaque) return true;
    if (m.alphaMode == AlphaMode::blend && !through && cover > 1.0f) return false;
    const float alpha =
        surface_alpha(asset, p, RTCHitN_primID(a.hit, a.N, i), RTCHitN_u(a.hit, a.N, i), RTCHitN_v(a.hit, a.N, i));
    if (through && m.alphaMode == AlphaMode::blend) {
        through[RTCRayN_id(a.ray, a.N, i)] *= 1.0f - std::clamp(alpha, 0.0f, 1.0f);
        return false;
    }
    return alpha >= (m.alphaMode == AlphaMode::mask ? m.alphaCutoff : cover);
}

void RayScene::filter(const RTCFilterFunctionNArguments* a) {
    const auto& context = *reinterpret_cast<const Context*>(a->context);
    for (unsigned i = 0; i < a->N; ++i)
        if (a->valid[i] != 0 && !context.takes(*a, i)) a->valid[i] = 0;
}

RayScene::RayScene(const Scene& scene) : device_(rtcNewDevice(nullptr)) {
    take(scene);
}

/// A tree over a primitive's triangles; null without any.
static RTCSceneTy* tree_of(RTCDeviceTy* device, const Primitive& p, bool bent) {
    if (p.indices.size() < 3) return nullptr;
    RTCSceneTy* tree = rtcNewScene(device);
    rtcSetSceneFlags(tree, static_cast<RTCSceneFlags>(RTC_SCENE_FLAG_ROBUST | RTC_SCENE_FLAG_CONTEXT_FILTER_FUNCTION |
                                                      (bent ? RTC_SCENE_FLAG_DYNAMIC : 0)));
    RTCGeometryTy* mesh = rtcNewGeometry(device, RTC_GEOMETRY_TYPE_TRIANGLE);
    rtcSetSharedGeometryBuffer(mesh, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, p.vertices.data(),
                               offsetof(Vertex, position), sizeof(Vertex), p.vertices.size());
    rtcSetSharedGeometryBuffer(mesh, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, p.indices.data(), 0, 12,
                               p.indices.size() / 3);
    if (bent) rtcSetGeometryBuildQuality(mesh, RTC_BUILD_QUALITY_REFIT);
    rtcCommitGeometry(mesh);
    rtcAttachGeometry(tree, mesh);
    rtcReleaseGeometry(mesh);
    rtcCommitScene(tree);
    return tree;
}

void RayScene::take(const Scene& scene) {
    const std::shared_ptr<const SceneAsset> before = std::exchange(asset_, scene.asset);
    const std::shared_ptr<const PlacedObjects> stood = std::exchange(placed_, scene.placed); // until all are bent
    std::vector<bool> bends(asset_->primitives.size(), false);
    if (asset_->rig)
        for (const Body& b : asset_->rig->bodies)
            bends[static_cast<std::size_t>(b.primitive)] = true;
    std::vector<RTCSceneTy*> trees(asset_->primitives.size(), nullptr);
    for (std::size_t i = 0; i < trees.size(); ++i) {
        const Primitive& p = asset_->primitives[i];
        // Bodies of what was built are made anew: their place in the list says nothing about what bends them.
        const bool same = i < primitives_.size() && before->primitives[i].vertices.same(p.vertices) &&
                          before->primitives[i].indices.same(p.indices) &&
                          (!bends[i] || (asset_->file && i < asset_->file->primitives.size()) || asset_ == before);
        trees[i] = same ? std::exchange(primitives_[i], nullptr) : tree_of(device_, p, bends[i]);
    }
    if (top_) rtcReleaseScene(top_);
    for (RTCSceneTy* tree : primitives_)
        if (tree) rtcReleaseScene(tree);
    primitives_ = std::move(trees);
    top_ = rtcNewScene(device_);
    rtcSetSceneFlags(top_, static_cast<RTCSceneFlags>(RTC_SCENE_FLAG_DYNAMIC | RTC_SCENE_FLAG_ROBUST |
                                                      RTC_SCENE_FLAG_CONTEXT_FILTER_FUNCTION));
    const std::vector<Object>& objects = scene.objects();
    const std::size_t count = asset_->objects.size(); // proxies come after
    instances_.assign(count, nullptr);
    transforms_.assign(count, glm::mat4(1.0f));
    shapes_.assign(count, 0);
    shown_.assign(count, true);
    casts_.assign(count, Casting::yes);
    receives_.assign(count, true);
    for (std::size_t o = 0; o < count; ++o) {
        casts_[o] = objects[o].casts;
        receives_[o] = objects[o].receives;
        RTCSceneTy* tree = primitives_[static_cast<std::size_t>(objects[o].primitive)];
        if (!tree) continue;
        instances_[o] = rtcNewGeometry(device_, RTC_GEOMETRY_TYPE_INSTANCE);
        rtcSetGeometryInstancedScene(instances_[o], tree);
        rtcSetGeometryTimeStepCount(instances_[o], 1);
        rtcAttachGeometryByID(top_, instances_[o], static_cast<unsigned>(o));
        rtcReleaseGeometry(instances_[o]); // the tree keeps it
        if (objects[o].body >= 0) bend(o, objects[o]);
        set_instance(o, objects[o]);
    }
    rtcCommitScene(top_);
}

RayScene::~RayScene() {
    rtcReleaseScene(top_);
    for (RTCSceneTy* tree : primitives_)
        if (tree) rtcReleaseScene(tree);
    rtcReleaseDevice(device_);
}

void RayScene::set_instance(std::size_t o, const Object& object) {
    transforms_[o] = object.transform;
    shown_[o] = !object.hidden;
    // Of what a scale of 0 has flattened nothing is met: no ray can be taken into its space.
    const bool gone = object.hidden || glm::determinant(glm::mat3(object.transform)) == 0.0f;
    const glm::mat4 place = gone ? glm::mat4(1.0f) : object.transform;
    rtcSetGeometryTransform(instances_[o], 0, RTC_FORMAT_FLOAT4X4_COLUMN_MAJOR, &place[0][0]);
    if (gone)
        rtcDisableGeometry(instances_[o]);
    else
        rtcEnableGeometry(instances_[o]);
    rtcCommitGeometry(instances_[o]);
}

/// Fits the tree of a bent primitive to its vertices as they stand.
void RayScene::bend(std::size_t o, const Object& object) {
    shapes_[o] = object.shape;
    RTCSceneTy* tree = primitives_[static_cast<std::size_t>(object.primitive)];
    RTCGeometryTy* mesh = rtcGetGeometry(tree, 0);
    const std::vector<Vertex>& v = vertices(o); // kept by what placed_ holds
    rtcSetSharedGeometryBuffer(mesh, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, v.data(), offsetof(Vertex, position),
                               sizeof(Vertex), v.size());
    rtcUpdateGeometryBuffer(mesh, RTC_BUFFER_TYPE_VERTEX, 0);
    rtcCommitGeometry(mesh);
    rtcCommitScene(tree);
}

const std::vector<Vertex>& RayScene::vertices(std::size_t object) const {
    return vertices_of(*asset_, placed_.get(), object);
}

void RayScene::place(const Scene& scene) {
    if (scene.asset != asset_ && file_asset(*scene.asset) == file_asset(*asset_)) return take(scene);
    assert(scene.objects().size() >= instances_.size());
    if (scene.placed == placed_) return;
    const std::shared_ptr<const PlacedObjects> before = std::exchange(placed_, scene.placed); // until all are bent
    const std::vector<Object>& objects = scene.objects();
    bool changed = false;
    for (std::size_t o = 0; o < instances_.size(); ++o) {
        casts_[o] = objects[o].casts;
        receives_[o] = objects[o].receives;
        if (!instances_[o]) continue;
        // Of the same shape, vertices may still have come into other memory.
        const bool bends = objects[o].body >= 0;
        if (bends) bend(o, objects[o]);
        if (!bends && transforms_[o] == objects[o].transform && shown_[o] == !objects[o].hidden) continue;
        set_instance(o, objects[o]);
        changed = true;
    }
    if (changed) rtcCommitScene(top_);
}

static RTCRay embree_ray(const Ray& ray, float from, float to) {
    const glm::vec3 &o = ray.origin, &d = ray.direction;
    return {o.x, o.y, o.z, from, d.x, d.y, d.z, 0, to, ~0u, 0, 0};
}

RayHit RayScene::nearest(const Ray& ray, float from, std::span<const int> without) const {
    return hit({{}, this, without, least_cover, true}, ray, from);
}

RayHit RayScene::any_surface(const Ray& ray, float from, bool seen) const {
    return hit({{}, this, {}, 1e-6f, seen}, ray, from);
}

RayHit RayScene::nearest_caster(const Ray& ray, float from) const {
    return hit({{}, this, {}, least_cover, false, Blocks::casting}, ray, from);
}

RayHit RayScene::hit(Context context, const Ray& ray, float from) const {
    rtcInitIntersectContext(&context.embree);
    context.embree.filter = filter;
    RTCRayHit query{};
    query.ray = embree_ray(ray, from, std::numeric_limits<float>::infinity());
    query.hit.geomID = query.hit.instID[0] = RTC_INVALID_GEOMETRY_ID;
    rtcIntersect1(top_, &context.embree, &query);
    RayHit hit;
    if (query.hit.geomID == RTC_INVALID_GEOMETRY_ID) return hit;
    hit.distance = query.ray.tfar;
    hit.object = static_cast<int>(query.hit.instID[0]);
    hit.triangle = query.hit.primID;
    hit.u = query.hit.u;
    hit.v = query.hit.v;
    const auto o = static_cast<std::size_t>(hit.object);
    const Primitive& p = asset_->primitives[static_cast<std::size_t>(asset_->objects[o].primitive)];
    const std::vector<Vertex>& stand = vertices(o);
    glm::vec3 corner[3];
    for (std::uint32_t k = 0; k < 3; ++k)
        corner[k] = glm::vec3(transforms_[o] * glm::vec4(stand[p.indices[3 * hit.triangle + k]].position, 1.0f));
    const glm::vec3 normal = glm::cross(corner[1] - corner[0], corner[2] - corner[0]);
    if (const float length = glm::length(normal); length > 1e-30f) {
        hit.normal = normal / length;
        // Where a front is seen from; mirrored objects turn their triangles round.
        hit.front =
            (glm::dot(hit.normal, ray.direction) < 0.0f) != (glm::determinant(glm::mat3(transforms_[o])) < 0.0f);
        if (glm::dot(hit.normal, ray.direction) > 0.0f) hit.normal = -hit.normal;
    }
    const Material& m = asset_->materials[p.material < 0 ? asset_->materials.size() - 1 : std::size_t(p.material)];
    if (m.alphaMode != AlphaMode::opaque) hit.alpha = surface_alpha(*asset_, p, hit.triangle, hit.u, hit.v);
    return hit;
}

bool RayScene::occluded(const Ray& ray, float from, float to) const {
    Context context{{}, this, {}, 2.0f, true};
    rtcInitIntersectContext(&context.embree);
    context.embree.filter = filter;
    RTCRay query = embree_ray(ray, from, to);
    rtcOccluded1(top_, &context.embree, &query);
    return query.tfar < 0.0f;
}

float RayScene::transmitted(const Ray& ray, float from, float to, Blocks blocks) const {
    if (!(to > from)) return 1.0f;
    float through = 1.0f;
    Context context{{}, this, {}, 2.0f, false, blocks, &through};
    rtcInitIntersectContext(&context.embree);
    context.embree.filter = filter;
    RTCRay query = embree_ray(ray, from, to);
    rtcOccluded1(top_, &context.embree, &query);
    return query.tfar < 0.0f ? 0.0f : through;
}

void RayScene::transmitted(std::span<const Ray> rays, std::span<const float> to, std::span<float> out,
                           Blocks blocks) const {
    assert(rays.size() == to.size() && rays.size() == out.size());
    constexpr std::size_t lanes = 8;
    for (std::size_t first = 0; first < rays.size(); first += lanes) {
        const std::size_t count = std::min(lanes, rays.size() - first);
        alignas(32) int valid[lanes] = {};
        alignas(32) RTCRay8 query{};
        float through[lanes];
        std::fill(through, through + lanes, 1.0f);
        for (std::size_t i = 0; i < count; ++i) {
            const Ray& r = rays[first + i];
            valid[i] = to[first + i] > 0.0f ? -1 : 0;
            query.org_x[i] = r.origin.x;
            query.org_y[i] = r.origin.y;
            query.org_z[i] = r.origin.z;
            query.dir_x[i] = r.direction.x;
            query.dir_y[i] = r.direction.y;
            query.dir_z[i] = r.direction.z;
            query.tfar[i] = to[first + i];
            query.mask[i] = ~0u;
            query.id[i] = static_cast<unsigned>(i);
        }
        Context context{{}, this, {}, 2.0f, false, blocks, through};
        rtcInitIntersectContext(&context.embree);
        context.embree.filter = filter; // not as coherent rays: that meets panes several times
        rtcOccluded8(valid, top_, &context.embree, &query);
        for (std::size_t i = 0; i < count; ++i)
            out[first + i] = valid[i] != 0 && query.tfar[i] < 0.0f ? 0.0f : through[i];
    }
}

} // namespace mirolux

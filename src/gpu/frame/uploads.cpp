#include "core/bake/baked_light.h"
#include "core/scene/geometry.h"
#include "core/surface/optics.h"
#include "gpu/frame/command_list.h"
#include "gpu/frame/session.h"
#include "gpu/passes/skinning.h"
#include <set>

// What a frame reads, brought to the device before its first pass: the view, lights, draws and their commands, and the
// room for light lists.
namespace mirolux::gpu {

namespace {

/// How draws become commands: neighbours of one mesh as instances of one, or each by its own.
enum class Merging { instances, singly };

/// Appends commands for draws (by index) and groups neighbours of one material and winding into batches.
std::vector<Batch> batch(const SceneResources& scene, const std::vector<Object>& objects,
                         const std::vector<Draw>& draws, const std::vector<std::uint32_t>* subset,
                         const InstanceData* instances, Merging merging, CommandList& list) {
    std::vector<Batch> batches;
    const SceneAsset& asset = scene.asset();
    const std::size_t count = subset ? subset->size() : draws.size();
    for (std::size_t i = 0; i < count; ++i) {
        const std::size_t d = subset ? (*subset)[i] : i;
        const Object& object = objects[static_cast<std::size_t>(draws[d].object)];
        const int material = static_cast<int>(asset.material_index(object));
        const auto& slice = scene.slice(object.primitive);
        const bool goesOn =
            !batches.empty() && batches.back().material == material && batches.back().mirrored == object.mirrored;
        if (goesOn && merging == Merging::instances && list.extend(slice, instances[d])) continue;
        list.add(slice, instances[d]);
        if (goesOn)
            ++batches.back().count;
        else
            batches.push_back({material, object.mirrored, list.commands.size() - 1, 1});
    }
    return batches;
}

LightData light_data(const Light& l, float reach, bool inMap, int mask) {
    LightData d{};
    d.position = l.position;
    d.range = l.range;
    d.direction = l.direction;
    d.reach = reach;
    d.intensity = effective_color(l) * l.intensity;
    d.type = l.type == LightType::directional ? 0 : l.type == LightType::point ? 1 : 2;
    if (inMap) d.type += 4; // structs.glsl: inLightMap
    d.type |= (mask + 1) << 8;
    d.cosInner = std::cos(l.innerConeAngle);
    d.cosOuter = std::cos(l.outerConeAngle);
    d.diffuseShare = l.diffuseShare;
    d.specularShare = l.specularShare;
    return d;
}

std::vector<DrawData> draw_data(const Scene& scene, const DrawList& list) {
    std::vector<DrawData> draws;
    draws.reserve(list.opaque.size() + list.blended.size());
    for (const auto* part : {&list.opaque, &list.blended})
        for (const Draw& d : *part) {
            const Object& o = scene.objects()[static_cast<std::size_t>(d.object)];
            DrawData data{};
            data.material = static_cast<std::uint32_t>(scene.asset->material_index(o));
            data.lightOffset = d.lightOffset;
            data.lightCount = d.lightCount;
            data.object = static_cast<std::uint32_t>(d.object);
            data.unshadowed = o.receives ? 0 : 1;
            draws.push_back(data);
        }
    return draws;
}

/// InstanceData::openness.
std::uint32_t openness_of(const BakedOcclusion* open, const Draw& d, const SceneResources::Slice& mesh) {
    const int first = open ? open->firstOf[static_cast<std::size_t>(d.object)] : -1;
    if (first < 0) return 1u << 31;
    return (static_cast<std::uint32_t>(first) - static_cast<std::uint32_t>(mesh.baseVertex)) & 0x7FFFFFFFu;
}

/// In the order of draw numbers.
std::vector<InstanceData> instance_data(const Scene& scene, const DrawList& list, const SceneResources& resources) {
    const BakedOcclusion* open = scene.baked && scene.baked->occlusion && scene.baked->occlusion->options.vertices
                                     ? scene.baked->occlusion.get()
                                     : nullptr;
    std::vector<InstanceData> out;
    out.reserve(list.opaque.size() + list.blended.size());
    for (const auto* part : {&list.opaque, &list.blended})
        for (const Draw& d : *part) {
            const Object& o = scene.objects()[static_cast<std::size_t>(d.object)];
            out.push_back({glm::mat4x3(o.transform), normal_matrix(o.transform), static_cast<std::uint32_t>(out.size()),
                           body_number(o), o.map, openness_of(open, d, resources.slice(o.primitive))});
        }
    return out;
}

std::vector<OpticsData> optics_data(const FrameInputs& in) {
    std::vector<OpticsData> all;
    for (const brdf::Optics& o : in.scene.asset->optics) {
        const brdf::Optics shown = shown_optics(o, in.setup);
        const glm::vec3& s = shown.scatterDistance;
        all.push_back(
            {shown.f0, shown.f90, s, std::max({s.x, s.y, s.z}), shown.coat, shown.coatRoughness, shown.thickness, 0});
    }
    return all;
}

/// Range of the depth layer, metres: from the nearest visible object to where nine tenths of them end.
std::pair<float, float> depth_range(const Scene& scene, const DrawList& list, const Camera& camera) {
    const glm::vec3 forward = glm::normalize(camera.aim - camera.eye);
    float nearest = 3.4e38f;
    std::vector<float> ends;
    for (const auto* draws : {&list.opaque, &list.blended})
        for (const Draw& d : *draws) {
            const Box& b = scene.objects()[static_cast<std::size_t>(d.object)].bounds;
            const float center = glm::dot(b.center() - camera.eye, forward),
                        extent = 0.5f * glm::dot(b.size(), glm::abs(forward));
            nearest = std::min(nearest, center - extent);
            ends.push_back(center + extent);
        }
    if (scene.is_blocks()) { // of its whole world
        const Box& b = scene.bounds();
        const float center = glm::dot(b.center() - camera.eye, forward),
                    extent = 0.5f * glm::dot(b.size(), glm::abs(forward));
        nearest = center - extent;
        ends.push_back(center + extent);
    }
    std::sort(ends.begin(), ends.end());
    const float near = std::clamp(nearest, camera.near, 1e6f),
                far = ends.empty() ? 1.0f : ends[(ends.size() - 1) * 9 / 10];
    return {near, std::max(far, near + 1e-3f)};
}

/// What each eye sees.
std::vector<FrameData> frame_data(const FrameInputs& in) {
    std::vector<FrameData> frames;
    const auto [near, far] = depth_range(in.scene, in.draws, in.view.camera);
    for (const View& eye : eye_views(in.view)) {
        FrameData f{};
        glm::mat4 projection = projection_matrix(eye.camera, aspect_of(eye));
        if (in.time.jitter != glm::dvec2(0.0)) { // moves the picture by part of a pixel: x and y in proportion to depth
            projection[2][0] -= static_cast<float>(2.0 * in.time.jitter.x / eye.width);
            projection[2][1] -= static_cast<float>(2.0 * in.time.jitter.y / eye.height);
        }
        f.viewProjection = projection * view_matrix(eye.camera);
        // Computed from a finite stand-in: the sky only needs directions, and the infinite projection inverts exactly.
        f.inverseViewProjection = glm::mat4(glm::inverse(glm::dmat4(f.viewProjection)));
        f.eye = glm::vec4(eye.camera.eye, 0);
        f.forward = glm::vec4(glm::normalize(in.view.camera.aim - in.view.camera.eye), in.view.camera.near);
        f.time = glm::vec4(static_cast<float>(in.time.seconds), static_cast<float>(in.time.index), in.time.jitter.x,
                           in.time.jitter.y);
        f.width = eye.width;
        f.height = eye.height;
        f.depthNear = near;
        f.depthFar = far;
        frames.push_back(f);
    }
    return frames;
}

} // namespace

void Session::upload(Frame& frame) {
    const FrameInputs& in = frame.inputs;
    std::vector<LightData> lights;
    for (std::size_t i = 0; i < in.draws.lights.size(); ++i)
        lights.push_back(light_data(in.draws.lights[i], in.draws.reach[i],
                                    in.scene.baked && in.scene.baked->holds(in.draws.lights[i].id),
                                    in.scene.baked ? in.scene.baked->channel_of(in.draws.lights[i].id) : -1));
    const std::vector<DrawData> draws = draw_data(in.scene, in.draws);
    const std::vector<OpticsData> optics = optics_data(in);
    const std::vector<glm::vec4> parameters = parameter_values(frame.plan);
    std::map<std::string, BufferRange> shared;
    const auto share = [&](const char* block, const void* data, std::size_t bytes) {
        Buffer& b = store_.buffer(block);
        b.upload(data, bytes);
        shared[block] = {b.name(), 0, 0};
    };
    share("LightBuffer", lights.data(), lights.size() * sizeof(LightData));
    share("LightIndexBuffer", in.draws.lightIndices.data(), in.draws.lightIndices.size() * 4);
    share("DrawBuffer", draws.data(), draws.size() * sizeof(DrawData));
    share("OpticsBuffer", optics.data(), optics.size() * sizeof(OpticsData));
    share("ParameterBuffer", parameters.data(), parameters.size() * sizeof(glm::vec4));
    shared["MaterialBuffer"] = {scene_->materials(), 0, 0};
    const BufferRange texels{shared["LightBuffer"].buffer, 0,
                             static_cast<GLsizeiptr>(std::max<std::size_t>(1, lights.size()) * sizeof(LightData))};
    const GLuint lightTexels = store_.texels("light texels", GL_RGBA32F, texels);
    const std::vector<FrameData> frames = frame_data(in);
    for (PassFrame* f : frame.all()) {
        f->buffers = shared;
        f->textures["lightTexels"] = lightTexels;
        if (f->both_eyes())
            f->upload("FrameBuffer", frames.data(), frames.size() * sizeof(FrameData));
        else
            f->upload("FrameBuffer", &frames[static_cast<std::size_t>(f->eye)], sizeof(FrameData));
        provide_bodies(*f);
        fill_commands(*f);
    }
    std::set<const Technique*> provided;
    const auto provide = [&](const Technique& technique) {
        const GpuTechnique* side = find_gpu_technique(technique);
        if (side && side->provide && provided.insert(&technique).second)
            for (PassFrame* f : frame.all())
                side->provide(*f);
    };
    for (const PlannedPass& pass : frame.plan.passes)
        provide(*pass.technique);
    for (const Feed& feed : frame.plan.feeds) // it may have no pass of its own in this frame
        provide(*feed.technique);
}

void Session::fill_commands(PassFrame& f) {
    const DrawList& list = f.inputs.draws;
    const std::vector<Object>& objects = f.inputs.scene.objects();
    const std::vector<InstanceData> instances = instance_data(f.inputs.scene, list, *scene_);
    CommandList all;
    const auto batches = [&](const std::vector<Draw>& draws, std::size_t first, Merging merging,
                             const std::vector<std::uint32_t>* subset = nullptr) {
        return batch(*scene_, objects, draws, subset, instances.data() + first, merging, all);
    };
    f.opaqueSingly = batches(list.opaque, 0, Merging::singly); // the first commands are those of the draws, in order
    f.blendedSingly = batches(list.blended, list.opaque.size(), Merging::singly);
    f.opaque = batches(list.opaque, 0, Merging::instances);
    f.blended = batches(list.blended, list.opaque.size(), Merging::instances);
    for (const LightDraws& per : list.perLight)
        f.lights.push_back({per.light, per.rect, batches(list.opaque, 0, Merging::instances, &per.draws)});
    if (f.both_eyes())
        for (DrawCommand& c : all.commands)
            c.instances *= 2;
    const std::string eyes = f.both_eyes() ? " of both eyes" : "";
    const auto share = [&](const std::string& name, const auto& data) {
        Buffer& buffer = store_.buffer(name + eyes);
        buffer.upload(data.data(), data.size() * sizeof(data[0]));
        return buffer.name();
    };
    f.all = f.shown = {share("commands", all.commands), share("draw instances", all.instances)};
    f.commandCount = all.commands.size();
    f.instanceCount = all.instances.size();
}

} // namespace mirolux::gpu

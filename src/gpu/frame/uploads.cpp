#include "core/cull/grid_settings.h"
#include "core/light/tone.h"
#include "core/scene/geometry.h"
#include "gpu/frame/session.h"

// What a frame reads, brought to the device before its first pass: the view, lights, draws and their commands, and the
// room for light lists.
namespace mirolux::gpu {

namespace {

/// Appends commands for draws (by index) and groups neighbours of one material and winding into batches.
std::vector<Batch> batch(const SceneResources& scene, const std::vector<Draw>& draws,
                         const std::vector<std::uint32_t>* subset, std::uint32_t firstDraw, bool merge,
                         std::vector<DrawCommand>& commands) {
    std::vector<Batch> batches;
    const SceneAsset& asset = scene.asset();
    const std::size_t count = subset ? subset->size() : draws.size();
    for (std::size_t i = 0; i < count; ++i) {
        const std::uint32_t d = subset ? (*subset)[i] : static_cast<std::uint32_t>(i);
        const Object& object = asset.objects[static_cast<std::size_t>(draws[d].object)];
        const int material = static_cast<int>(asset.material_index(object));
        const auto& slice = scene.slice(object.primitive);
        commands.push_back({slice.count, 1, slice.firstIndex, slice.baseVertex, firstDraw + d});
        if (merge && !batches.empty() && batches.back().material == material &&
            batches.back().mirrored == object.mirrored)
            ++batches.back().count;
        else
            batches.push_back({material, object.mirrored, commands.size() - 1, 1});
    }
    return batches;
}

/// The buffer as a buffer texture on a unit; storage may have been made anew, so it is attached each time.
void bind_texels(Texture& texels, GLenum format, GLuint buffer, GLuint unit, GLintptr start, GLsizeiptr size) {
    if (!texels) {
        GLuint name = 0;
        glCreateTextures(GL_TEXTURE_BUFFER, 1, &name);
        texels = Texture(name);
    }
    glTextureBufferRange(texels.name(), format, buffer, start, size);
    glBindTextureUnit(unit, texels.name());
}

LightData light_data(const Light& l, float reach) {
    LightData d{};
    d.position = l.position;
    d.range = l.range;
    d.direction = l.direction;
    d.reach = reach;
    d.intensity = effective_color(l) * l.intensity;
    d.type = l.type == LightType::directional ? 0 : l.type == LightType::point ? 1 : 2;
    d.cosInner = std::cos(l.innerConeAngle);
    d.cosOuter = std::cos(l.outerConeAngle);
    return d;
}

} // namespace

void Session::upload(const Scene& scene, const Setup& setup, const View& view, const DrawList& list, Frame& made,
                     FrameRecord& record) {
    const SceneAsset& asset = *scene.asset;
    FrameData f{};
    const glm::vec3 forward = glm::normalize(view.camera.aim - view.camera.eye);
    f.forward = glm::vec4(forward, view.camera.near);
    const std::string& ambient = setup.choice("ambient.kind");
    if (ambient == "constant")
        f.ambientTop = f.ambientSide = f.ambientBottom = glm::vec4(setup.color("ambient.constant"), 0);
    else if (ambient == "gradient") {
        f.ambientTop = glm::vec4(setup.color("ambient.top"), 0);
        f.ambientSide = glm::vec4(setup.color("ambient.side"), 0);
        f.ambientBottom = glm::vec4(setup.color("ambient.bottom"), 0);
    }
    f.skyHorizon = glm::vec4(scene.sky.horizon, 0);
    f.skyZenith = glm::vec4(scene.sky.zenith, 0);
    f.exponent = static_cast<float>(setup.number("shading.exponent"));
    f.white = static_cast<float>(setup.number("tone.white"));
    const std::string& curve = setup.choice("tone.curve");
    f.toneCurve = curve == "none" ? 0 : curve == "clamp" ? 1 : curve == "reinhard" ? 2 : 3;
    f.dither = setup.flag("output.dither") ? 1 : 0;
    f.width = view.width;
    f.height = view.height;
    float nearest = 3.4e38f;
    std::vector<float>
        ends; // of every visible object along the view axis; the layer's range ends where nine tenths of them do
    for (const auto* draws : {&list.opaque, &list.blended})
        for (const Draw& d : *draws) {
            const Box& b = asset.objects[static_cast<std::size_t>(d.object)].bounds;
            const float center = glm::dot(b.center() - view.camera.eye, forward),
                        extent = 0.5f * glm::dot(b.size(), glm::abs(forward));
            nearest = std::min(nearest, center - extent);
            ends.push_back(center + extent);
        }
    f.depthNear = record.depthNear = std::clamp(nearest, view.camera.near, 1e6f);
    std::sort(ends.begin(), ends.end());
    const float farthest = ends.empty() ? 1.0f : ends[(ends.size() - 1) * 9 / 10];
    f.depthFar = record.depthFar = std::max(farthest, f.depthNear + 1e-3f);
    std::vector<FrameData> frames;
    for (const View& eye : eye_views(view)) {
        const double aspect = double(eye.width) / eye.height;
        f.viewProjection = projection_matrix(eye.camera, aspect) * view_matrix(eye.camera);
        // Computed from a finite stand-in: the sky only needs directions, and the infinite projection inverts exactly.
        f.inverseViewProjection = glm::mat4(glm::inverse(glm::dmat4(f.viewProjection)));
        f.eye = glm::vec4(eye.camera.eye, static_cast<float>(tone::exposure_scale(setup.number("exposure.ev100"))));
        eyes_[frames.size()].frame.upload(&f, sizeof f);
        frames.push_back(f);
    }
    if (made.both) bothFrames_.upload(frames.data(), frames.size() * sizeof(FrameData));

    std::vector<LightData> lights;
    for (std::size_t i = 0; i < list.lights.size(); ++i)
        lights.push_back(light_data(list.lights[i], list.reach[i]));
    lights_.upload(lights.data(), lights.size() * sizeof(LightData));
    bind_texels(lightTexels_, GL_RGBA32F, lights_.name(), 9, 0,
                static_cast<GLsizeiptr>(std::max<std::size_t>(1, lights.size()) * sizeof(LightData)));
    lightIndices_.upload(list.lightIndices.data(), list.lightIndices.size() * 4);

    std::vector<DrawData> draws;
    for (const auto* part : {&list.opaque, &list.blended})
        for (const Draw& d : *part) {
            const Object& o = asset.objects[static_cast<std::size_t>(d.object)];
            DrawData data{};
            data.model = o.transform;
            const glm::mat3 normal = normal_matrix(o.transform);
            for (int c = 0; c < 3; ++c)
                data.normalMatrix[c] = glm::vec4(normal[c], 0);
            data.material = static_cast<std::uint32_t>(asset.material_index(o));
            data.lightOffset = d.lightOffset;
            data.lightCount = d.lightCount;
            draws.push_back(data);
        }
    draws_.upload(draws.data(), draws.size() * sizeof(DrawData));

    for (PassContext& context : made.eyes)
        fill_commands(list, context, commands_);
    if (made.both) fill_commands(list, *made.both, bothCommands_);

    glBindBufferBase(GL_SHADER_STORAGE_BUFFER, 1, lights_.name());
    glBindBufferBase(GL_SHADER_STORAGE_BUFFER, 2, draws_.name());
    scene_->bind_materials();
    glBindBufferBase(GL_SHADER_STORAGE_BUFFER, 4, lightIndices_.name());
    for (PassContext& context : made.eyes)
        context.lightIndexBuffer = lightIndices_.name();
    bind_eye(made.eyes.front());
}

void Session::fill_commands(const DrawList& list, PassContext& context, Buffer& buffer) {
    std::vector<DrawCommand> commands;
    context.opaque = batch(*scene_, list.opaque, nullptr, 0, true, commands);
    context.blended =
        batch(*scene_, list.blended, nullptr, static_cast<std::uint32_t>(list.opaque.size()), true, commands);
    for (const LightDraws& per : list.perLight)
        context.lights.push_back({per.light, per.rect, batch(*scene_, list.opaque, &per.draws, 0, true, commands)});
    for (DrawCommand& c : commands)
        c.instances = context.bothEyes ? 2 : 1;
    buffer.upload(commands.data(), commands.size() * sizeof(DrawCommand));
    context.commandBuffer = buffer.name();
}

void Session::bind_eye(const PassContext& c) {
    glBindBufferBase(GL_SHADER_STORAGE_BUFFER, 0, c.bothEyes ? bothFrames_.name() : eyes_[c.eye].frame.name());
    if (!c.path.lists) return;
    const GLsizeiptr start = c.bothEyes ? 0 : c.eye * listBytes_, size = c.bothEyes ? 2 * listBytes_ : listBytes_;
    glBindBufferRange(GL_SHADER_STORAGE_BUFFER, 6, lists_.name(), start, size);
    bind_texels(listTexels_, GL_R32UI, lists_.name(), 10, start, size);
}

Result<void> Session::upload_grid(const Setup& setup, const View& view, const DrawList& list, Frame& made) {
    const cull::GridSettings s = cull::grid_settings(setup, made.eyes.front().path.clustered);
    const std::size_t bounded = list.lights.size() - static_cast<std::size_t>(list.directional);
    if (bounded > 16384)
        return fail("there are " + std::to_string(bounded) + " lights in view; light lists take 16,384", "path.kind",
                    "Shorten ranges, or take the deferred path.");
    GridData g{};
    g.columns = (view.width + s.tile - 1) / s.tile;
    g.rows = (view.height + s.tile - 1) / s.tile;
    g.slices = s.slices;
    g.tile = s.tile;
    // A list never holds more than all lights: small scenes need no room for the full capacity.
    g.capacity = std::min(s.capacity, std::max(8, static_cast<int>(bounded)));
    g.depthBounds = static_cast<int>(s.depthBounds);
    g.test = static_cast<int>(s.test);
    g.coneTest = s.coneTest;
    g.sliceNear = s.sliceNear;
    g.sliceFar = s.sliceFar;
    g.sliceExponent = s.sliceExponent;
    g.cameraNear = view.camera.near;
    g.firstBounded = list.directional;
    g.lightCount = static_cast<int>(list.lights.size());
    g.transparent = list.blended.empty() ? 0 : 1;
    const float ty = std::tan(0.5f * view.camera.fovY);
    g.extent = {ty * static_cast<float>(view.width) / static_cast<float>(view.height), ty};
    const std::size_t cells = std::size_t(g.columns) * g.rows * g.slices;
    GLint most = 0;
    glGetIntegerv(GL_MAX_TEXTURE_BUFFER_SIZE, &most);
    const std::size_t entries =
        cells * (1 + static_cast<std::size_t>(g.capacity)) * static_cast<std::size_t>(1 + g.transparent);
    if (entries * made.eyes.size() > static_cast<std::size_t>(most))
        return fail("light lists of " + std::to_string(entries * made.eyes.size()) +
                        " entries are more than this device reads (" + std::to_string(most) + ")",
                    "culling.listCapacity", "Lower the list capacity, or take larger tiles or fewer slices.");
    // Each eye's lists begin where a buffer range may: 256 bytes serve every device.
    const std::size_t stride = (entries + 63) / 64 * 64;
    g.eyeStride = static_cast<std::int32_t>(stride);
    grid_.upload(&g, sizeof g);
    listBytes_ = static_cast<GLsizeiptr>(stride * 4);
    lists_.reserve(stride * 4 * made.eyes.size());
    const std::vector<View> views = eye_views(view);
    for (std::size_t e = 0; e < made.eyes.size(); ++e) {
        std::vector<CullLightData> data;
        for (const cull::CullLight& l : cull::view_lights(list.lights, list.reach, list.directional, views[e].camera))
            data.push_back({glm::vec4(l.bounds.center, l.bounds.radius), glm::vec4(l.position, l.reach),
                            glm::vec4(l.direction, l.cosOuter), glm::vec4(l.sinOuter, l.strength, 0, 0)});
        eyes_[e].cullLights.upload(data.data(), data.size() * sizeof(CullLightData));
        eyes_[e].overflow.reserve(32);
        made.eyes[e].cells = {g.columns, g.rows, g.slices};
        made.eyes[e].cullLightBuffer = eyes_[e].cullLights.name();
        made.eyes[e].overflowBuffer = eyes_[e].overflow.name();
    }
    glBindBufferBase(GL_SHADER_STORAGE_BUFFER, 5, grid_.name());
    listCapacity_ = g.capacity;
    return {};
}

} // namespace mirolux::gpu

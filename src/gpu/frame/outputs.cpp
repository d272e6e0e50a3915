#include "gpu/frame/session.h"
#include "gpu/passes/state.h"

// What a request gets back beside times: pictures, layers, thumbnails.
namespace mirolux::gpu {

namespace {

/// Where a layer lies: its place among the layer targets (-1: the scene target, -2: depth) and how finish_fragment.glsl
/// shows it.
struct LayerSource {
    int target, view;
};

LayerSource source_of(const std::string& layer) {
    static const std::map<std::string, LayerSource> sources = {
        {"final", {-1, 0}},  {"albedo", {0, 1}},  {"normal", {1, 2}},   {"material", {2, 3}}, {"depth", {-2, 4}},
        {"ambient", {3, 0}}, {"diffuse", {4, 0}}, {"specular", {5, 0}}, {"emissive", {6, 0}}};
    return sources.at(layer);
}

FloatImage read_floats(GLuint framebuffer, GLenum attachment, int width, int height) {
    FloatImage image{width, height, 4, std::vector<float>(std::size_t(4) * width * height)};
    std::vector<float> rows(image.data.size());
    glBindFramebuffer(GL_READ_FRAMEBUFFER, framebuffer);
    glReadBuffer(attachment);
    glReadPixels(0, 0, width, height, GL_RGBA, GL_FLOAT, rows.data());
    const std::size_t stride = std::size_t(4) * width;
    for (int y = 0; y < height; ++y)
        std::copy_n(rows.begin() + static_cast<std::ptrdiff_t>((height - 1 - y) * stride), stride,
                    image.data.begin() + static_cast<std::ptrdiff_t>(y * stride));
    return image;
}

/// Distance along the view axis in metres, 0 where there is no surface.
FloatImage read_depth(GLuint framebuffer, float near, int width, int height) {
    FloatImage image{width, height, 1, std::vector<float>(std::size_t(width) * height)};
    std::vector<float> rows(image.data.size());
    glBindFramebuffer(GL_READ_FRAMEBUFFER, framebuffer);
    glReadPixels(0, 0, width, height, GL_DEPTH_COMPONENT, GL_FLOAT, rows.data());
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x) {
            const float d = rows[std::size_t(height - 1 - y) * width + x];
            image.data[std::size_t(y) * width + x] = d > 0 ? near / d : 0.0f;
        }
    return image;
}

} // namespace

Result<void> Session::draw_layers(PassContext& context, LayerTargets& t) {
    if (auto ok = prepare_surface(context, {"PASS_LAYERS"}); !ok) return ok;
    glBindFramebuffer(GL_FRAMEBUFFER, t.framebuffer.name());
    glViewport(0, 0, t.width, t.height);
    const float zero[4] = {};
    for (int i = 0; i < LayerTargets::count; ++i)
        glClearNamedFramebufferfv(t.framebuffer.name(), GL_COLOR, i, zero);
    glClearNamedFramebufferfv(t.framebuffer.name(), GL_DEPTH, 0, zero);
    glDisable(GL_BLEND);
    glDisable(GL_STENCIL_TEST);
    glEnable(GL_DEPTH_TEST);
    glDepthFunc(GL_GREATER);
    glDepthMask(GL_TRUE);
    auto program = [&](bool masked) { return *surface_program(context, {"PASS_LAYERS"}, masked); };
    draw_batches(context, context.opaque, program);
    // The sky counts as emission, so that the parts add up to the picture.
    auto sky = context.programs.get("screen_vertex.glsl", "sky_fragment.glsl", {});
    if (!sky) return tl::unexpected(sky.error());
    glNamedFramebufferDrawBuffer(t.framebuffer.name(), GL_COLOR_ATTACHMENT6);
    glDepthFunc(GL_EQUAL);
    glDepthMask(GL_FALSE);
    glUseProgram(*sky);
    glBindVertexArray(context.emptyVertexArray);
    glDrawArrays(GL_TRIANGLES, 0, 3);
    // Blended surfaces join the radiance layers only; albedo, normal and material stay those of the nearest opaque
    // surface.
    GLenum attachments[LayerTargets::count];
    for (int i = 0; i < LayerTargets::count; ++i)
        attachments[i] = i < 3 ? GL_NONE : GL_COLOR_ATTACHMENT0 + static_cast<GLenum>(i);
    glNamedFramebufferDrawBuffers(t.framebuffer.name(), LayerTargets::count, attachments);
    glDepthFunc(GL_GREATER);
    glEnable(GL_BLEND);
    glBlendFuncSeparate(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA, GL_ONE, GL_ONE_MINUS_SRC_ALPHA);
    draw_batches(context, context.blended, program);
    glDisable(GL_BLEND);
    glDepthMask(GL_TRUE);
    for (int i = 0; i < LayerTargets::count; ++i)
        attachments[i] = GL_COLOR_ATTACHMENT0 + static_cast<GLenum>(i);
    glNamedFramebufferDrawBuffers(t.framebuffer.name(), LayerTargets::count, attachments);
    if (alive_) alive_();
    return {};
}

Result<ByteImage> Session::view_of(GLuint texture, int mode, int width, int height) {
    auto program = programs_.get("screen_vertex.glsl", "finish_fragment.glsl", {"VIEW " + std::to_string(mode)});
    if (!program) return tl::unexpected(program.error());
    TargetPool::View& view = pool_.view(width, height);
    glBindFramebuffer(GL_FRAMEBUFFER, view.framebuffer.name());
    glViewport(0, 0, width, height);
    glDisable(GL_DEPTH_TEST);
    glDisable(GL_BLEND);
    glProgramUniform2i(*program, 0, width, height);
    glUseProgram(*program);
    glBindTextureUnit(0, texture);
    glBindVertexArray(empty_.name());
    glDrawArrays(GL_TRIANGLES, 0, 3);
    ByteImage image{width, height, std::vector<std::uint8_t>(std::size_t(4) * width * height)};
    glReadPixels(0, 0, width, height, GL_RGBA, GL_UNSIGNED_BYTE, image.rgba.data());
    return image;
}

Result<void> Session::read_outputs(const View& view, Frame& frame, const RenderOptions& options, FrameRecord& record) {
    PassContext& context = frame.eyes.front();
    std::vector<std::string> asked = options.floatLayers;
    asked.insert(asked.end(), options.thumbnails.begin(), options.thumbnails.end());
    if (options.picture) asked.push_back(options.show);
    for (const std::string& name : asked)
        if (!is_layer(name))
            return fail("there is no layer of this name", name, "mirolux-cli render lists the layers in its help.");

    if (options.picture && options.show == "final") {
        const int shown = options.bothEyes ? static_cast<int>(frame.eyes.size()) : 1;
        record.picture = {shown * view.width, view.height,
                          std::vector<std::uint8_t>(std::size_t(4) * shown * view.width * view.height)};
        glPixelStorei(GL_PACK_ROW_LENGTH, shown * view.width);
        for (int e = 0; e < shown; ++e) {
            glBindFramebuffer(GL_READ_FRAMEBUFFER, frame.eyes[static_cast<std::size_t>(e)].targets.finish.name());
            glReadPixels(0, 0, view.width, view.height, GL_RGBA, GL_UNSIGNED_BYTE,
                         record.picture.rgba.data() + std::size_t(4) * e * view.width);
        }
        glPixelStorei(GL_PACK_ROW_LENGTH, 0);
    }
    auto is_part = [](const std::string& layer) { return source_of(layer).target >= 0; };
    LayerTargets* full = nullptr;
    auto full_layers = [&]() -> Result<LayerTargets*> {
        if (!full) {
            full = &pool_.layers(view.width, view.height);
            if (auto ok = draw_layers(context, *full); !ok) return tl::unexpected(ok.error());
        }
        return full;
    };
    auto texture_of = [&](const std::string& layer, LayerTargets* parts) {
        const int t = source_of(layer).target;
        return t == -1 ? context.targets.color.name() : t == -2 ? context.targets.depth.name() : parts->color[t].name();
    };
    if (options.picture && options.show != "final") {
        LayerTargets* parts = nullptr;
        if (is_part(options.show)) {
            auto drawn = full_layers();
            if (!drawn) return tl::unexpected(drawn.error());
            parts = *drawn;
        }
        auto image = view_of(texture_of(options.show, parts), source_of(options.show).view, view.width, view.height);
        if (!image) return tl::unexpected(image.error());
        record.picture = std::move(*image);
    }
    for (const std::string& layer : options.floatLayers) {
        if (layer == "final")
            record.floats[layer] =
                read_floats(context.targets.scene.name(), GL_COLOR_ATTACHMENT0, view.width, view.height);
        else if (layer == "depth")
            record.floats[layer] = read_depth(context.targets.scene.name(), view.camera.near, view.width, view.height);
        else {
            auto drawn = full_layers();
            if (!drawn) return tl::unexpected(drawn.error());
            record.floats[layer] = read_floats((*drawn)->framebuffer.name(),
                                               GL_COLOR_ATTACHMENT0 + static_cast<GLenum>(source_of(layer).target),
                                               view.width, view.height);
        }
    }
    if (!options.thumbnails.empty()) {
        // Parts are drawn at twice the thumbnail's size, or taken from the full ones if those were needed anyway.
        LayerTargets* parts = full;
        for (const std::string& layer : options.thumbnails) {
            if (is_part(layer) && !parts) {
                parts = &pool_.layers(options.thumbnailWidth * 2, options.thumbnailHeight * 2);
                if (auto ok = draw_layers(context, *parts); !ok) return ok;
            }
            auto image = view_of(texture_of(layer, parts), source_of(layer).view, options.thumbnailWidth,
                                 options.thumbnailHeight);
            if (!image) return tl::unexpected(image.error());
            record.thumbnails[layer] = std::move(*image);
        }
    }
    return {};
}

} // namespace mirolux::gpu

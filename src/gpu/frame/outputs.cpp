#include "core/sky/sky.h"
#include "gpu/frame/read_back.h"
#include "gpu/frame/session.h"
#include "gpu/passes/block_world.h"
#include "gpu/passes/flat_lights.h"
#include "gpu/passes/surface_pass.h"
#include <algorithm>

// What a request gets back beside times: pictures, layers, thumbnails.
namespace mirolux::gpu {

namespace {

/// What a layer's pass shows of the sky (SKY_PART of sky/fragment.glsl).
int part_of(SkyPart part) {
    return part == SkyPart::own ? 1 : 2;
}

} // namespace

/// The layers of one answer: those that are resources of the plan, and those that a pass over the surfaces draws, up to
/// eight at a time and only when one of them is asked for.
class LayerOutputs {
public:
    LayerOutputs(Session& session, PassFrame& frame, int light) : session_(session), frame_(frame), light_(light) {}

    /// Where a layer lies at this size: a texture, the framebuffer that holds it, and its attachment there.
    struct Place {
        GLuint texture = 0, framebuffer = 0;
        GLenum attachment = GL_COLOR_ATTACHMENT0;
        int width = 0, height = 0;
        bool fromTop = false;
    };
    /// It is a target of this stage's frames that this one does not make.
    bool lacks(const LayerInfo& layer) const {
        return of_this_stage(layer) && !layer.resource.empty() && !frame_.plan.resource(layer.resource);
    }

    Result<Place> place(const LayerInfo& layer, int width, int height) {
        const bool isFlat = frame_.inputs.scene.is_flat();
        if (!of_this_stage(layer))
            return fail("the layer is of another stage", layer.name, "Choose one that this scene's frames make.");
        if (!layer.resource.empty()) return resource_place(layer);
        if (isFlat) return flat_light_place(width, height);
        if (frame_.inputs.scene.is_blocks()) return block_place(layer, width, height);
        const auto key = std::pair(width, height);
        auto& drawn = drawn_[key];
        if (drawn.empty()) drawn.resize(groups().size(), nullptr);
        for (std::size_t g = 0; g < groups().size(); ++g)
            for (std::size_t i = 0; i < groups()[g].size(); ++i) {
                if (groups()[g][i] != &layer) continue;
                if (!drawn[g]) {
                    auto made = draw(groups()[g], width, height, static_cast<int>(g));
                    if (!made) return tl::unexpected(made.error());
                    drawn[g] = *made;
                }
                return Place{drawn[g]->colors[i].name(), drawn[g]->framebuffer.name(),
                             GL_COLOR_ATTACHMENT0 + static_cast<GLenum>(i), width, height};
            }
        return fail("there is no layer of this name", layer.name);
    }

    /// A layer as 8-bit picture of a size.
    Result<ByteImage> view(const LayerInfo& layer, const Place& place, int width, int height) {
        std::vector<std::string> variant = finish_variant(frame_.plan);
        variant.push_back("VIEW " + std::to_string(static_cast<int>(layer.view)));
        auto stage = frame_.screen_stage("finish/fragment.glsl", variant, {{"sceneTexture", place.texture}});
        if (!stage) return tl::unexpected(stage.error());
        auto target = session_.scratch_.get("view", width, height, {GL_RGBA8}, GL_NONE);
        if (!target) return tl::unexpected(target.error());
        PassState state;
        state.framebuffer = (*target)->framebuffer.name();
        state.width = width;
        state.height = height;
        state.depthTest = state.depthWrite = false;
        glProgramUniform2i(stage->name(), stage->uniform("outputSize"), width, height);
        frame_.draw_screen(*stage, state);
        ByteImage image{width, height, std::vector<std::uint8_t>(std::size_t(4) * width * height)};
        glReadPixels(0, 0, width, height, GL_RGBA, GL_UNSIGNED_BYTE, image.rgba.data());
        return image;
    }

private:
    using Group = std::vector<const LayerInfo*>;

    bool of_this_stage(const LayerInfo& layer) const { return belongs(layer.stages, frame_.inputs.scene.stage()); }

    Result<Place> resource_place(const LayerInfo& layer) {
        if (lacks(layer))
            return fail("this frame has no " + layer.resource, layer.name, "Choose a setup that makes it.");
        const bool depth = layer.view == LayerView::depth;
        // The picture is looked at as it is at last.
        const std::string& name = layer.resource == "scene" ? frame_.plan.radiance : layer.resource;
        auto target = depth ? frame_.framebuffer({}, name) : frame_.framebuffer({name});
        if (!target) return tl::unexpected(target.error());
        const PlannedResource& r = *frame_.plan.resource(name);
        Place out{frame_.texture(name), *target, GL_COLOR_ATTACHMENT0, r.width, r.height, r.spec.fromTop};
        if (r.spec.samples > 1) {
            auto one = session_.resolved(r, *target);
            if (!one) return tl::unexpected(one.error());
            out.texture = depth ? (*one)->depth.name() : (*one)->colors.front().name();
            out.framebuffer = (*one)->framebuffer.name();
        }
        return out;
    }

    /// The one layer of a flat stage that is none of its targets: the chosen light alone.
    Result<Place> flat_light_place(int width, int height) {
        auto made = session_.scratch_.get("flat light", width, height, {GL_RGBA16F}, GL_NONE);
        if (!made) return tl::unexpected(made.error());
        const GLuint framebuffer = (*made)->framebuffer.name();
        auto commands = prepare_one_light(frame_, {light_, framebuffer, width, height});
        if (!commands) return tl::unexpected(commands.error());
        (*commands)();
        return Place{(*made)->colors[0].name(), framebuffer, GL_COLOR_ATTACHMENT0, width, height};
    }

    /// A layer of a Blocks stage that is none of its targets: a pass over what cells left at each pixel.
    Result<Place> block_place(const LayerInfo& layer, int width, int height) {
        const GeneratedFiles files = with_block_layer(frame_.generated, layer);
        std::vector<std::string> defines = block_defines(frame_);
        defines.push_back("LAYER layer_" + layer.name);
        auto stage = frame_.screen_stage("blocks/field.glsl", defines, {}, &files);
        if (!stage) return tl::unexpected(stage.error());
        auto made = session_.scratch_.get("block layer " + layer.name, width, height,
                                          {static_cast<GLenum>(layer.exact ? GL_RGBA32F : GL_RGBA16F)}, GL_NONE);
        if (!made) return tl::unexpected(made.error());
        PassState state;
        state.framebuffer = (*made)->framebuffer.name();
        state.width = width;
        state.height = height;
        state.depthTest = state.depthWrite = false;
        glProgramUniform2f(stage->name(), stage->uniform("shownScale"), float(frame_.width()) / float(width),
                           float(frame_.height()) / float(height));
        frame_.draw_screen(*stage, state);
        return Place{(*made)->colors[0].name(), state.framebuffer, GL_COLOR_ATTACHMENT0, width, height};
    }

    /// Surface layers in frame order, eight a group.
    static const std::vector<Group>& groups() {
        static const std::vector<Group> all = [] {
            std::vector<Group> out;
            for (const LayerInfo& l : all_layers()) {
                if (!l.resource.empty() || !belongs(l.stages, mirolux::Stage::solid)) continue;
                if (out.empty() || out.back().size() == 8) out.emplace_back();
                out.back().push_back(&l);
            }
            return out;
        }();
        return all;
    }

    /// HAS_<technique> for each in the frame that brings buffers of its own: layers of others read nothing of theirs.
    /// width, height: of what is drawn, which may be smaller than the picture.
    Result<SurfaceStage> layers_stage(std::vector<std::string> defines, const GeneratedFiles& files, int width,
                                      int height) const {
        defines.emplace_back("PASS_LAYERS");
        for (const PlannedPass& p : frame_.plan.passes)
            if (const std::string has = "HAS_" + p.technique->name;
                gpu_technique(*p.technique).provide && std::find(defines.begin(), defines.end(), has) == defines.end())
                defines.push_back(has);
        auto stage = frame_.surface_stage(std::move(defines), {}, &files);
        if (!stage) return stage;
        stage->set("chosenLight", static_cast<GLuint>(light_));
        for (const Stage* s : {&stage->solid, &stage->masked})
            if (s->program)
                glProgramUniform2f(s->name(), s->uniform("shownScale"), float(frame_.width()) / float(width),
                                   float(frame_.height()) / float(height));
        stage->set("firstBlended", static_cast<GLuint>(frame_.inputs.draws.opaque.size()));
        return stage;
    }

    Result<Scratch*> draw(const Group& group, int width, int height, int number) {
        std::vector<GLenum> formats;
        for (const LayerInfo* l : group)
            formats.push_back(l->exact ? GL_RGBA32F : GL_RGBA16F);
        auto made =
            session_.scratch_.get("layers " + std::to_string(number) + (width == frame_.width() ? "" : " small"), width,
                                  height, formats, GL_DEPTH_COMPONENT32F);
        if (!made) return made;
        Scratch& t = **made;
        const GeneratedFiles files = with_layers(frame_.generated, group);
        auto stage = layers_stage({}, files, width, height);
        if (!stage) return tl::unexpected(stage.error());
        PassState state;
        state.framebuffer = t.framebuffer.name();
        state.width = width;
        state.height = height;
        state.apply();
        const float zero[4] = {};
        for (std::size_t i = 0; i < group.size(); ++i)
            glClearNamedFramebufferfv(state.framebuffer, GL_COLOR, static_cast<GLint>(i), zero);
        glClearNamedFramebufferfv(state.framebuffer, GL_DEPTH, 0, zero);
        frame_.draw(frame_.opaque, *stage, state);
        if (auto ok = draw_sky(group, state); !ok) return tl::unexpected(ok.error());
        // Blended surfaces join by their alpha; what shows the nearest opaque surface is left alone.
        write_to(group, state.framebuffer, [](const LayerInfo& l) { return l.throughGlass; });
        state.depthWrite = false;
        state.blend = {true, GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA, GL_ONE, GL_ONE_MINUS_SRC_ALPHA};
        frame_.draw(frame_.blended, *stage, state);
        // Or cover what they stand before: nearest first wins.
        if (std::any_of(group.begin(), group.end(), [](const LayerInfo* l) { return l->panes; })) {
            auto covering = layers_stage({"COVERING"}, files, width, height);
            if (!covering) return tl::unexpected(covering.error());
            write_to(group, state.framebuffer, [](const LayerInfo& l) { return l.panes; });
            state.depthWrite = true;
            state.blend = {};
            frame_.draw(frame_.blended, *covering, state);
        }
        write_to(group, state.framebuffer, [](const LayerInfo&) { return true; });
        session_.vitals_->beat();
        return made;
    }

    /// The sky's part of the layers that it joins, so that the parts add up to the picture.
    Result<void> draw_sky(const Group& group, PassState state) {
        state.depthFunc = GL_EQUAL;
        state.depthWrite = false;
        for (std::size_t i = 0; i < group.size(); ++i) {
            if (group[i]->sky == SkyPart::none) continue;
            std::vector<std::string> defines = sky_defines(frame_.inputs.setup, frame_.plan);
            defines.push_back("SKY_PART " + std::to_string(part_of(group[i]->sky)));
            auto sky = frame_.screen_stage("sky/fragment.glsl", defines);
            if (!sky) return tl::unexpected(sky.error());
            glNamedFramebufferDrawBuffer(state.framebuffer, GL_COLOR_ATTACHMENT0 + static_cast<GLenum>(i));
            frame_.draw_screen(*sky, state);
        }
        write_to(group, state.framebuffer, [](const LayerInfo&) { return true; });
        return {};
    }

    template <class Wanted>
    static void write_to(const Group& group, GLuint framebuffer, Wanted wanted) {
        std::vector<GLenum> attachments;
        for (std::size_t i = 0; i < group.size(); ++i)
            attachments.push_back(wanted(*group[i]) ? GL_COLOR_ATTACHMENT0 + static_cast<GLenum>(i) : GL_NONE);
        glNamedFramebufferDrawBuffers(framebuffer, static_cast<GLsizei>(attachments.size()), attachments.data());
    }

    Session& session_;
    PassFrame& frame_;
    int light_; // into DrawList::lights, or -1
    std::map<std::pair<int, int>, std::vector<Scratch*>> drawn_;
};

/// The final picture, of one eye or of both side by side.
static Result<ByteImage> read_picture(const std::vector<std::unique_ptr<PassFrame>>& eyes, glm::ivec2 size, int shown) {
    ByteImage picture{shown * size.x, size.y, std::vector<std::uint8_t>(std::size_t(4) * shown * size.x * size.y)};
    glPixelStorei(GL_PACK_ROW_LENGTH, shown * size.x);
    for (int e = 0; e < shown; ++e) {
        auto target = eyes[static_cast<std::size_t>(e)]->framebuffer({"picture"});
        if (!target) return tl::unexpected(target.error());
        glBindFramebuffer(GL_READ_FRAMEBUFFER, *target);
        glReadBuffer(GL_COLOR_ATTACHMENT0);
        glReadPixels(0, 0, size.x, size.y, GL_RGBA, GL_UNSIGNED_BYTE,
                     picture.rgba.data() + std::size_t(4) * e * size.x);
    }
    glPixelStorei(GL_PACK_ROW_LENGTH, 0);
    return picture;
}

/// Place of a light in the view's list, by its id; -1: not in view.
static int place_of_light(const DrawList& list, int id) {
    for (std::size_t i = 0; i < list.lights.size(); ++i)
        if (list.lights[i].id == id) return static_cast<int>(i);
    return -1;
}

Result<void> Session::read_outputs(Frame& frame, const RenderOptions& options, FrameRecord& record) {
    const View& view = frame.inputs.view; // layers are drawn as large as the frame is rendered
    const glm::ivec2 shown = shown_size(view);
    std::vector<std::string> asked = options.floatLayers;
    asked.insert(asked.end(), options.thumbnails.begin(), options.thumbnails.end());
    if (options.picture) asked.push_back(options.show);
    for (const std::string& name : asked)
        if (!find_layer(name))
            return fail("there is no layer of this name", name, "mirolux-cli render lists the layers in its help.");
    LayerOutputs layers(*this, *frame.eyes.front(), place_of_light(frame.inputs.draws, options.light));
    if (options.picture && options.show == "final") {
        auto picture = read_picture(frame.eyes, shown, options.bothEyes ? static_cast<int>(frame.eyes.size()) : 1);
        if (!picture) return tl::unexpected(picture.error());
        record.picture = std::move(*picture);
    } else if (options.picture) {
        const LayerInfo& layer = *find_layer(options.show);
        auto place = layers.place(layer, view.width, view.height);
        if (!place) return tl::unexpected(place.error());
        auto image = layers.view(layer, *place, shown.x, shown.y);
        if (!image) return tl::unexpected(image.error());
        record.picture = std::move(*image);
    }
    for (const std::string& name : options.floatLayers) {
        const LayerInfo& layer = *find_layer(name);
        auto place = layers.place(layer, view.width, view.height);
        if (!place) return tl::unexpected(place.error());
        record.floats[name] =
            layer.view == LayerView::depth
                ? read_depth(place->framebuffer, view.camera.near, place->width, place->height)
                : read_floats(place->framebuffer, place->attachment, place->width, place->height, 4, place->fromTop);
    }
    // Surface layers of thumbnails are drawn at twice their size, or taken from the full ones if those were needed
    // anyway.
    const bool full = (options.picture && options.show != "final" && find_layer(options.show)->resource.empty()) ||
                      std::any_of(options.floatLayers.begin(), options.floatLayers.end(),
                                  [](const std::string& n) { return find_layer(n)->resource.empty(); });
    for (const std::string& name : options.thumbnails) {
        const LayerInfo& layer = *find_layer(name);
        if (layers.lacks(layer)) continue;
        auto place = layers.place(layer, full ? view.width : options.thumbnailWidth * 2,
                                  full ? view.height : options.thumbnailHeight * 2);
        if (!place) return tl::unexpected(place.error());
        auto image = layers.view(layer, *place, options.thumbnailWidth, options.thumbnailHeight);
        if (!image) return tl::unexpected(image.error());
        record.thumbnails[name] = std::move(*image);
    }
    return {};
}

} // namespace mirolux::gpu

#include "core/image/target_picture.h"
#include "gpu/frame/read_back.h"
#include "gpu/frame/session.h"
#include "gpu/gl/formats.h"
#include <algorithm>

// Targets of the plan as they are between passes: whole with their plain values, or small after each write.
namespace mirolux::gpu {

/// Rows as the device has them, from the bottom, turned over.
static FloatImage turned(std::vector<float> rows, int width, int height, int channels) {
    const std::size_t stride = std::size_t(width) * static_cast<std::size_t>(channels);
    for (int y = 0; y < height / 2; ++y)
        std::swap_ranges(rows.begin() + static_cast<std::ptrdiff_t>(y * stride),
                         rows.begin() + static_cast<std::ptrdiff_t>((y + 1) * stride),
                         rows.begin() + static_cast<std::ptrdiff_t>((height - 1 - y) * stride));
    return {width, height, channels, std::move(rows)};
}

FloatImage read_floats(GLuint framebuffer, GLenum attachment, int width, int height, int channels, bool fromTop) {
    static constexpr GLenum formats[] = {GL_RED, GL_RG, GL_RGB, GL_RGBA};
    std::vector<float> rows(std::size_t(width) * height * static_cast<std::size_t>(channels));
    glBindFramebuffer(GL_READ_FRAMEBUFFER, framebuffer);
    glReadBuffer(attachment);
    glReadPixels(0, 0, width, height, formats[channels - 1], GL_FLOAT, rows.data());
    if (fromTop) return {width, height, channels, std::move(rows)};
    return turned(std::move(rows), width, height, channels);
}

FloatImage read_depth(GLuint framebuffer, float near, int width, int height) {
    std::vector<float> rows(std::size_t(width) * height);
    glBindFramebuffer(GL_READ_FRAMEBUFFER, framebuffer);
    glReadPixels(0, 0, width, height, GL_DEPTH_COMPONENT, GL_FLOAT, rows.data());
    if (near > 0)
        for (float& d : rows)
            d = d > 0 ? near / d : 0.0f;
    return turned(std::move(rows), width, height, 1);
}

FloatImage read_stencil(GLuint framebuffer, int width, int height) {
    std::vector<std::uint8_t> marks(std::size_t(width) * height);
    glBindFramebuffer(GL_READ_FRAMEBUFFER, framebuffer);
    glReadPixels(0, 0, width, height, GL_STENCIL_INDEX, GL_UNSIGNED_BYTE, marks.data());
    return turned(std::vector<float>(marks.begin(), marks.end()), width, height, 1);
}

static int channels_of(Format format) {
    switch (format) {
    case Format::rg8:
    case Format::rg16:
    case Format::rg32f:
        return 2;
    case Format::r8:
    case Format::r32f:
    case Format::depth32f:
    case Format::depth32fStencil8:
    case Format::words:
        return 1;
    case Format::rgba8:
    case Format::rgba16f:
    case Format::rgba32f:
    case Format::rgb16f:
    case Format::rgb9e5:
    case Format::bc6h:
        break;
    }
    return 4;
}

static bool is_linear_light(Format format) {
    return format == Format::rgba16f || format == Format::rgba32f;
}

/// Formats that no device need draw to: they are only filled and read.
static bool only_read(Format format) {
    return format == Format::rgb16f || format == Format::rgb9e5 || format == Format::bc6h;
}
static FloatImage read_texture(const PlannedResource& r, GLuint texture) {
    std::vector<float> rows(4 * std::size_t(r.width) * static_cast<std::size_t>(r.height));
    glGetTextureSubImage(texture, 0, 0, 0, 0, r.width, r.height, 1, GL_RGBA, GL_FLOAT,
                         static_cast<GLsizei>(rows.size() * 4), rows.data());
    if (r.spec.fromTop) return {r.width, r.height, 4, std::move(rows)};
    return turned(std::move(rows), r.width, r.height, 4);
}

/// One level of a target on a framebuffer of its own.
static Result<Framebuffer> framebuffer_of(const PlannedResource& r, GLuint texture, int mip) {
    Framebuffer made = make_framebuffer(r.spec.name + ", read");
    const GLenum attachment = !is_depth(r.spec.format)            ? GL_COLOR_ATTACHMENT0
                              : r.spec.format == Format::depth32f ? GL_DEPTH_ATTACHMENT
                                                                  : GL_DEPTH_STENCIL_ATTACHMENT;
    glNamedFramebufferTexture(made.name(), attachment, texture, mip);
    if (is_depth(r.spec.format)) glNamedFramebufferDrawBuffer(made.name(), GL_NONE);
    if (auto ok = check_complete(made.name(), r.spec.name); !ok) return tl::unexpected(ok.error());
    return made;
}

static FloatImage read_buffer(const PlannedResource& r, GLuint buffer, int layer) {
    constexpr std::size_t width = 1024, most = width * 16384;
    const std::size_t entries = std::min(r.spec.entries, most), rows = (entries + width - 1) / width;
    std::vector<std::uint32_t> words(rows * width, 0);
    glGetNamedBufferSubData(buffer, static_cast<GLintptr>(r.spec.entries * 4 * static_cast<std::size_t>(layer)),
                            static_cast<GLsizeiptr>(entries * 4), words.data());
    return {static_cast<int>(width), static_cast<int>(rows), 1, std::vector<float>(words.begin(), words.end())};
}

Result<Scratch*> Session::resolved(const PlannedResource& r, GLuint framebuffer) {
    const bool depth = is_depth(r.spec.format);
    const GLenum format = gl_format(r.spec.format);
    auto made = scratch_.get("resolved " + r.spec.name, r.width, r.height,
                             depth ? std::vector<GLenum>{} : std::vector<GLenum>{format},
                             depth ? format : static_cast<GLenum>(GL_NONE));
    if (!made) return made;
    glDisable(GL_SCISSOR_TEST);
    glBlitNamedFramebuffer(framebuffer, (*made)->framebuffer.name(), 0, 0, r.width, r.height, 0, 0, r.width, r.height,
                           depth ? GL_DEPTH_BUFFER_BIT : GL_COLOR_BUFFER_BIT, GL_NEAREST);
    return made;
}

Result<void> Session::show_single_depth(PassFrame& f) {
    const PlannedResource* depth = f.plan.resource("depth");
    if (!depth || depth->spec.samples < 2) return {};
    auto target = f.framebuffer({}, "depth");
    if (!target) return tl::unexpected(target.error());
    auto one = resolved(*depth, *target);
    if (!one) return tl::unexpected(one.error());
    f.textures["depthTexture"] = (*one)->depth.name();
    return {};
}

/// The target that is asked for, or an Error that says what there is.
static Result<const PlannedResource*> target_of(const FramePlan& plan, const TargetRead& wanted) {
    const PlannedResource* r = plan.resource(wanted.target);
    if (!r) {
        std::string all;
        for (const PlannedResource& other : plan.resources)
            all += (all.empty() ? "" : ", ") + other.spec.name;
        return fail("this frame has no target of this name", wanted.target, "It has: " + all + ".");
    }
    const auto whole = [](int n, const char* what) { return std::to_string(n) + " " + what + (n > 1 ? "s" : ""); };
    if (wanted.layer >= r->layers)
        return fail("the target has " + whole(r->layers, "layer"), wanted.target, "The first one is 0.");
    if (wanted.mip >= r->spec.mips)
        return fail("the target has " + whole(r->spec.mips, "mip level"), wanted.target, "The first one is 0.");
    if (wanted.stencil && r->spec.format != Format::depth32fStencil8)
        return fail("the target has no stencil", wanted.target, "A path that marks pixels has one in its depth.");
    return r;
}

/// The pass after which the target is read, by its place in the plan.
static Result<int> pass_of(const FramePlan& plan, const PlannedResource& r, const TargetRead& wanted) {
    if (wanted.after.empty()) return r.last;
    for (std::size_t i = 0; i < plan.passes.size(); ++i) {
        if (plan.passes[i].name != wanted.after) continue;
        if (static_cast<int>(i) >= r.first && static_cast<int>(i) <= r.last) return static_cast<int>(i);
        return fail("the target does not live at this pass", wanted.target + ", " + wanted.after,
                    "It lives from " + plan.passes[static_cast<std::size_t>(r.first)].name + " to " +
                        plan.passes[static_cast<std::size_t>(r.last)].name + ".");
    }
    return fail("this frame has no pass of this name", wanted.after, "mirolux-cli plan lists them.");
}

/// What turns a target's depths into metres from the eye; 0: they are none.
static float near_of(const PlannedResource& r, const FrameInputs& inputs) {
    return r.spec.ownDepths ? 0.0f : inputs.view.camera.near;
}

Result<void> Session::read_targets(Frame& frame, const std::vector<Prepared>& prepared, const RenderOptions& options,
                                   FrameRecord& record) {
    const FramePlan& plan = frame.plan;
    bool whole = true; // the targets hold what the whole frame left
    for (const TargetRead& wanted : options.targets) {
        auto r = target_of(plan, wanted);
        if (!r) return tl::unexpected(r.error());
        auto last = pass_of(plan, **r, wanted);
        if (!last) return tl::unexpected(last.error());
        // What is written again, or gave its memory to a later one, is drawn anew up to the pass.
        const auto& residents = plan.allocations[static_cast<std::size_t>((*r)->allocation)].resources;
        if (!whole || *last < (*r)->last || &plan.resources[static_cast<std::size_t>(residents.back())] != *r) {
            for (int i = 0; i <= *last; ++i)
                run_pass(prepared[static_cast<std::size_t>(i)]);
            held_.reset();
            whole = false;
        }
        const PassFrame& eye = *frame.eyes[std::min(static_cast<std::size_t>(wanted.layer), frame.eyes.size() - 1)];
        if ((*r)->spec.entries > 0) {
            record.targets.push_back(read_buffer(**r, eye.resources.buffer(wanted.target), wanted.layer));
            continue;
        }
        if (only_read((*r)->spec.format)) {
            record.targets.push_back(read_texture(**r, eye.resources.texture(wanted.target, wanted.layer)));
            continue;
        }
        const int width = std::max(1, (*r)->width >> wanted.mip), height = std::max(1, (*r)->height >> wanted.mip);
        auto framebuffer = framebuffer_of(**r, eye.resources.texture(wanted.target, wanted.layer), wanted.mip);
        if (!framebuffer) return tl::unexpected(framebuffer.error());
        GLuint from = framebuffer->name();
        if ((*r)->spec.samples > 1) {
            auto one = resolved(**r, from);
            if (!one) return tl::unexpected(one.error());
            from = (*one)->framebuffer.name();
        }
        record.targets.push_back(wanted.stencil ? read_stencil(from, width, height)
                                 : is_depth((*r)->spec.format)
                                     ? read_depth(from, near_of(**r, frame.inputs), width, height)
                                     : read_floats(from, GL_COLOR_ATTACHMENT0, width, height,
                                                   channels_of((*r)->spec.format), (*r)->spec.fromTop));
    }
    return {};
}

Result<void> Session::read_writes(Frame& frame, const std::vector<Prepared>& prepared, const RenderOptions& options,
                                  FrameRecord& record) {
    const FramePlan& plan = frame.plan;
    const PassFrame& left = *frame.eyes.front();
    held_.reset();
    for (std::size_t i = 0; i < plan.passes.size(); ++i) {
        run_pass(prepared[i]);
        vitals_->at(static_cast<int>(i));
        for (const std::string& name : plan.passes[i].writes) {
            const PlannedResource& r = *plan.resource(name);
            if (r.spec.entries > 0) continue;
            const bool depth = is_depth(r.spec.format);
            auto from = framebuffer_of(r, left.texture(name), 0);
            if (!from) return tl::unexpected(from.error());
            GLuint whole = from->name();
            if (r.spec.samples > 1) {
                auto one = resolved(r, whole);
                if (!one) return tl::unexpected(one.error());
                whole = (*one)->framebuffer.name();
            }
            const int width = std::min(options.thumbnailWidth, r.width),
                      height = std::min(options.thumbnailHeight, r.height);
            const GLenum format = gl_format(r.spec.format);
            auto small = scratch_.get(std::string("written ") + info_of(r.spec.format).word, width, height,
                                      depth ? std::vector<GLenum>{} : std::vector<GLenum>{format},
                                      depth ? format : static_cast<GLenum>(GL_NONE));
            if (!small) return tl::unexpected(small.error());
            const GLuint to = (*small)->framebuffer.name();
            glDisable(GL_SCISSOR_TEST); // the one state of passes that a blit heeds
            glBlitNamedFramebuffer(whole, to, 0, 0, r.width, r.height, 0, 0, width, height,
                                   depth ? GL_DEPTH_BUFFER_BIT : GL_COLOR_BUFFER_BIT, GL_NEAREST);
            const FloatImage image = depth ? read_depth(to, near_of(r, frame.inputs), width, height)
                                           : read_floats(to, GL_COLOR_ATTACHMENT0, width, height,
                                                         channels_of(r.spec.format), r.spec.fromTop);
            const ValueRange range = r.spec.format == Format::rgba8 ? ValueRange{} : range_of(image, Channel::all);
            record.writes.push_back(
                {plan.passes[i].name, name, picture_of(image, Channel::all, range, is_linear_light(r.spec.format))});
        }
    }
    return {};
}

} // namespace mirolux::gpu

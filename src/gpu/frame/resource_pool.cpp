#include "gpu/frame/resource_pool.h"
#include "gpu/gl/formats.h"
#include <algorithm>
#include <atomic>
#include <cassert>

namespace mirolux::gpu {

static std::string size_text(int width, int height) {
    return std::to_string(width) + "x" + std::to_string(height);
}

/// Forgets errors of before, so that the next question is about what was just made.
static void forget_errors() {
    while (glGetError() != GL_NO_ERROR) {
    }
}

Result<void> check_complete(GLuint framebuffer, const std::string& name) {
    const GLenum status = glCheckNamedFramebufferStatus(framebuffer, GL_FRAMEBUFFER);
    if (status == GL_FRAMEBUFFER_COMPLETE) return {};
    const char* why = status == GL_FRAMEBUFFER_UNSUPPORTED ? "this device does not draw to these formats together"
                      : status == GL_FRAMEBUFFER_INCOMPLETE_ATTACHMENT ? "an attachment is incomplete"
                                                                       : "it is incomplete";
    return fail("the device refuses the targets of " + name + ": " + why, "status " + std::to_string(status),
                "Choose another format or a smaller picture.");
}

GLuint ResourceSet::texture(const std::string& resource, int eye) const {
    return memory(resource, false).layer(eye);
}

GLuint ResourceSet::previous(const std::string& resource, int eye) const {
    return memory(resource, true).layer(eye);
}

GLuint ResourceSet::buffer(const std::string& resource) const {
    return memory(resource, false).buffer.name();
}

const ResourceSet::Memory& ResourceSet::memory(const std::string& resource, bool previous) const {
    const auto place = places_.find(resource);
    assert(place != places_.end()); // a pass asks for what the plan does not hold
    const auto other = history_.find(resource);
    if (other != history_.end() && (written_ == 1) != previous) return *other->second;
    return *memories_[static_cast<std::size_t>(place->second)];
}

Result<GLuint> ResourceSet::framebuffer(const std::vector<std::string>& colors, const std::string& depth,
                                        int eye) const {
    std::string key = std::to_string(written_) + "," + std::to_string(eye) + "|" + depth;
    for (const std::string& c : colors)
        key += "|" + c;
    if (const auto it = framebuffers_.find(key); it != framebuffers_.end()) return it->second.name();
    const std::string label = colors.empty() ? depth : colors.front();
    Framebuffer made = make_framebuffer(label);
    std::vector<GLenum> attachments;
    for (const std::string& c : colors) {
        attachments.push_back(GL_COLOR_ATTACHMENT0 + static_cast<GLenum>(attachments.size()));
        glNamedFramebufferTexture(made.name(), attachments.back(), texture(c, eye), 0);
    }
    if (attachments.empty())
        glNamedFramebufferDrawBuffer(made.name(), GL_NONE);
    else
        glNamedFramebufferDrawBuffers(made.name(), static_cast<GLsizei>(attachments.size()), attachments.data());
    if (!depth.empty()) {
        const bool stencil = formats_.at(depth) == Format::depth32fStencil8;
        glNamedFramebufferTexture(made.name(), stencil ? GL_DEPTH_STENCIL_ATTACHMENT : GL_DEPTH_ATTACHMENT,
                                  texture(depth, eye), 0);
    }
    if (auto ok = check_complete(made.name(), label); !ok) return tl::unexpected(ok.error());
    return framebuffers_.emplace(key, std::move(made)).first->second.name();
}

void ResourceSet::turn_history() {
    if (!history_.empty()) written_ = 1 - written_;
}

void ResourceSet::clear_history() {
    const float zero[4] = {};
    for (const auto& [name, other] : history_)
        for (const Memory* m : {other.get(), memories_[static_cast<std::size_t>(places_.at(name))].get()})
            glClearTexImage(m->whole.name(), 0, GL_RGBA, GL_FLOAT, zero);
}

bool ResourceSet::take_history(ResourceSet& other) {
    if (layers_ != other.layers_ || historyKey_ != other.historyKey_) return false;
    for (auto& [name, memory] : history_) {
        std::swap(memory, other.history_.at(name));
        std::swap(memories_[static_cast<std::size_t>(places_.at(name))],
                  other.memories_[static_cast<std::size_t>(other.places_.at(name))]);
    }
    std::swap(written_, other.written_);
    framebuffers_.clear();
    other.framebuffers_.clear();
    return true;
}

/// Refuses more samples a pixel than the device has, with those that it lists.
static Result<void> check_samples(const FramePlan& plan) {
    for (const PlannedResource& r : plan.resources) {
        if (r.spec.samples < 2) continue;
        const GLenum format = gl_format(r.spec.format);
        GLint count = 0;
        glGetInternalformativ(GL_TEXTURE_2D_MULTISAMPLE, format, GL_NUM_SAMPLE_COUNTS, 1, &count);
        std::vector<GLint> listed(static_cast<std::size_t>(std::max(count, 0)));
        if (count > 0) glGetInternalformativ(GL_TEXTURE_2D_MULTISAMPLE, format, GL_SAMPLES, count, listed.data());
        if (std::find(listed.begin(), listed.end(), r.spec.samples) != listed.end()) continue;
        std::string all;
        for (auto it = listed.rbegin(); it != listed.rend(); ++it)
            if (*it > 1) all += (all.empty() ? "" : ", ") + std::to_string(*it);
        return fail("this device has no " + std::to_string(r.spec.samples) + " samples a pixel of " +
                        info_of(r.spec.format).word,
                    "edges.samples",
                    all.empty() ? "It has one; take the filter, supersampling or temporal accumulation."
                                : "It lists " + all + ".");
    }
    return {};
}

Result<void> ResourceSet::make(const FramePlan& plan, SceneMemory& scene) {
    layers_ = plan.eyes();
    if (auto ok = check_samples(plan); !ok) return ok;
    forget_errors();
    static std::atomic<std::uint64_t> serials = 0;
    const auto textures_of = [&](const Allocation& a, const std::string& label) {
        auto m = std::make_shared<Memory>();
        m->serial = ++serials;
        const GLenum format = gl_format(a.format);
        if (a.layers > 1) {
            m->whole = make_layered(label, format, a.width, a.height, a.layers, a.mips);
            for (int layer = 0; layer < a.layers; ++layer)
                m->layers.push_back(make_layer_view(m->whole, format, layer, a.mips));
        } else if (a.samples > 1)
            m->whole = make_multisampled(label, format, a.width, a.height, a.samples);
        else
            m->whole = make_texture(label, format, a.width, a.height, a.mips);
        return m;
    };
    // The same memory for every set, as long as its shape is the same.
    const auto of_scene = [&](const Allocation& a, const std::string& name) {
        const std::string shape = std::to_string(static_cast<int>(a.format)) + "," + size_text(a.width, a.height) +
                                  "," + std::to_string(a.layers) + "," + std::to_string(a.mips);
        auto& [kept, memory] = scene[name];
        if (!memory || kept != shape) memory = textures_of(a, name);
        kept = shape;
        return memory;
    };
    for (const Allocation& a : plan.allocations) {
        const PlannedResource& first = plan.resources[static_cast<std::size_t>(a.resources.front())];
        if (first.spec.entries > 0) {
            memories_.push_back(std::make_shared<Memory>());
            memories_.back()->serial = ++serials;
            memories_.back()->buffer.reserve(a.bytes);
        } else if (first.spec.life == Life::scene)
            memories_.push_back(of_scene(a, first.spec.name));
        else
            memories_.push_back(textures_of(a, first.spec.name));
        for (const int r : a.resources) {
            const ResourceSpec& spec = plan.resources[static_cast<std::size_t>(r)].spec;
            places_[spec.name] = static_cast<int>(memories_.size()) - 1;
            formats_[spec.name] = spec.format;
            if (spec.life != Life::history) continue;
            history_[spec.name] = textures_of(a, spec.name + ", last frame");
            historyKey_ += "|" + spec.name + "," + std::to_string(static_cast<int>(a.format)) + "," +
                           size_text(a.width, a.height) + "," + std::to_string(a.mips);
        }
    }
    if (glGetError() == GL_OUT_OF_MEMORY)
        return fail("the device has no room for the frame's targets (" + std::to_string(plan.bytesHeld >> 20) + " MiB)",
                    size_text(plan.view.width, plan.view.height), "Choose a smaller picture.");
    clear_history();
    return {};
}

/// All that a set is made from.
static std::string key_of(const FramePlan& plan) {
    std::string key = std::to_string(plan.eyes());
    for (const PlannedResource& r : plan.resources)
        key += "|" + r.spec.name + "," + std::to_string(static_cast<int>(r.spec.format)) + "," +
               size_text(r.width, r.height) + "," + std::to_string(r.bytes) + "," + std::to_string(r.spec.samples) +
               "," + std::to_string(r.allocation);
    return key;
}

Result<ResourceSet*> ResourcePool::set_of(const FramePlan& plan) {
    const std::string key = key_of(plan);
    for (std::size_t i = 0; i < sets_.size(); ++i)
        if (sets_[i]->key_ == key) {
            std::rotate(sets_.begin(), sets_.begin() + static_cast<std::ptrdiff_t>(i),
                        sets_.begin() + static_cast<std::ptrdiff_t>(i) + 1);
            return sets_.front().get();
        }
    const std::size_t keep = plan.eyes() > 1 ? 1 : 2; // beside the new one
    while (sets_.size() > keep)
        sets_.pop_back();
    auto made = std::make_unique<ResourceSet>();
    made->key_ = key;
    if (auto ok = made->make(plan, scene_); !ok) return tl::unexpected(ok.error());
    sets_.push_front(std::move(made));
    return sets_.front().get();
}

bool ResourcePool::carry_history(const ResourceSet* from, ResourceSet* to) {
    for (const auto& set : sets_)
        if (set.get() == from) return from == to || to->take_history(*set);
    return false; // it was freed
}

Result<Scratch*> ScratchPool::get(const std::string& name, int width, int height, const std::vector<GLenum>& colors,
                                  GLenum depth) {
    std::vector<GLenum> formats = colors;
    formats.push_back(depth);
    Kept& kept = kept_[name];
    if (kept.scratch.width == width && kept.scratch.height == height && kept.formats == formats) return &kept.scratch;
    forget_errors();
    Scratch s;
    s.width = width;
    s.height = height;
    s.framebuffer = make_framebuffer(name);
    std::vector<GLenum> attachments;
    for (const GLenum format : colors) {
        s.colors.push_back(make_texture(name, format, width, height));
        attachments.push_back(GL_COLOR_ATTACHMENT0 + static_cast<GLenum>(attachments.size()));
        glNamedFramebufferTexture(s.framebuffer.name(), attachments.back(), s.colors.back().name(), 0);
    }
    glNamedFramebufferDrawBuffers(s.framebuffer.name(), static_cast<GLsizei>(attachments.size()), attachments.data());
    if (depth != GL_NONE) {
        s.depth = make_texture(name + " depth", depth, width, height);
        glNamedFramebufferTexture(s.framebuffer.name(),
                                  depth == GL_DEPTH32F_STENCIL8 ? GL_DEPTH_STENCIL_ATTACHMENT : GL_DEPTH_ATTACHMENT,
                                  s.depth.name(), 0);
    }
    kept = {};
    if (glGetError() == GL_OUT_OF_MEMORY)
        return fail("the device has no room for " + name, size_text(width, height), "Choose a smaller picture.");
    if (auto ok = check_complete(s.framebuffer.name(), name); !ok) return tl::unexpected(ok.error());
    kept = {formats, std::move(s)};
    return &kept.scratch;
}

} // namespace mirolux::gpu

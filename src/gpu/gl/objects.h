#pragma once
#include <epoxy/gl.h>
#include <string>
#include <utility>

namespace mirolux::gpu {

/// How many GL objects our wrappers hold; a test compares it before and after.
inline int& live_objects() {
    static int count = 0;
    return count;
}

/// Owns one GL name; the destructor gives it back. Copying is deleted, moving empties the source.
template <void (*Delete)(GLuint)>
class Owned {
public:
    Owned() = default;
    explicit Owned(GLuint name) : name_(name) { ++live_objects(); }
    Owned(Owned&& other) noexcept : name_(std::exchange(other.name_, 0)) {}
    Owned& operator=(Owned&& other) noexcept {
        std::swap(name_, other.name_);
        return *this;
    }
    ~Owned() {
        if (name_) {
            Delete(name_);
            --live_objects();
        }
    }
    GLuint name() const { return name_; }
    explicit operator bool() const { return name_ != 0; }

private:
    GLuint name_ = 0;
};

inline void delete_buffer(GLuint n) {
    glDeleteBuffers(1, &n);
}
inline void delete_texture(GLuint n) {
    glDeleteTextures(1, &n);
}
inline void delete_framebuffer(GLuint n) {
    glDeleteFramebuffers(1, &n);
}
inline void delete_vertex_array(GLuint n) {
    glDeleteVertexArrays(1, &n);
}
inline void delete_query(GLuint n) {
    glDeleteQueries(1, &n);
}
inline void delete_program(GLuint n) {
    glDeleteProgram(n);
}

using Texture = Owned<delete_texture>;
using Framebuffer = Owned<delete_framebuffer>;
using VertexArray = Owned<delete_vertex_array>;
using Query = Owned<delete_query>;
using Program = Owned<delete_program>;

/// A buffer that grows: storage is made anew when the content no longer fits.
class Buffer {
public:
    explicit Buffer(std::string label) : label_(std::move(label)) {}
    /// Replaces the content; an empty content still leaves a bindable buffer.
    void upload(const void* data, std::size_t bytes) {
        reserve(bytes);
        if (bytes) glNamedBufferSubData(owned_.name(), 0, static_cast<GLsizeiptr>(bytes), data);
    }
    /// Makes room without content.
    void reserve(std::size_t bytes) {
        if (!owned_ || bytes > capacity_) make(bytes);
    }
    /// So many bytes from another buffer's beginning, then these.
    void upload_behind(const Buffer& other, std::size_t kept, const void* data, std::size_t bytes) {
        reserve(kept + bytes);
        if (kept) glCopyNamedBufferSubData(other.name(), name(), 0, 0, static_cast<GLsizeiptr>(kept));
        if (bytes) glNamedBufferSubData(name(), static_cast<GLintptr>(kept), static_cast<GLsizeiptr>(bytes), data);
    }
    GLuint name() const { return owned_.name(); }

private:
    void make(std::size_t bytes) {
        GLuint name = 0;
        glCreateBuffers(1, &name);
        owned_ = Owned<delete_buffer>(name);
        capacity_ = bytes < 256 ? 256 : bytes + bytes / 4;
        glNamedBufferStorage(name, static_cast<GLsizeiptr>(capacity_), nullptr, GL_DYNAMIC_STORAGE_BIT);
        glObjectLabel(GL_BUFFER, name, -1, label_.c_str());
    }
    std::string label_;
    std::size_t capacity_ = 0;
    Owned<delete_buffer> owned_;
};

inline Texture make_texture(const std::string& label, GLenum format, int width, int height, int levels = 1) {
    GLuint name = 0;
    glCreateTextures(GL_TEXTURE_2D, 1, &name);
    glTextureStorage2D(name, levels, format, width, height);
    glObjectLabel(GL_TEXTURE, name, -1, label.c_str());
    return Texture(name);
}

/// Several samples a pixel, at places that are the same for every pixel.
inline Texture make_multisampled(const std::string& label, GLenum format, int width, int height, int samples) {
    GLuint name = 0;
    glCreateTextures(GL_TEXTURE_2D_MULTISAMPLE, 1, &name);
    glTextureStorage2DMultisample(name, samples, format, width, height, GL_TRUE);
    glObjectLabel(GL_TEXTURE, name, -1, label.c_str());
    return Texture(name);
}

/// Layers of one size: an array texture.
inline Texture make_layered(const std::string& label, GLenum format, int width, int height, int layers,
                            int levels = 1) {
    GLuint name = 0;
    glCreateTextures(GL_TEXTURE_2D_ARRAY, 1, &name);
    glTextureStorage3D(name, levels, format, width, height, layers);
    glObjectLabel(GL_TEXTURE, name, -1, label.c_str());
    return Texture(name);
}

/// One layer of an array texture, to be read and written as a texture of its own.
inline Texture make_layer_view(const Texture& layered, GLenum format, int layer, int levels = 1) {
    GLuint name = 0;
    glGenTextures(1, &name);
    glTextureView(name, GL_TEXTURE_2D, layered.name(), format, 0, static_cast<GLuint>(levels),
                  static_cast<GLuint>(layer), 1);
    return Texture(name);
}

inline Framebuffer make_framebuffer(const std::string& label) {
    GLuint name = 0;
    glCreateFramebuffers(1, &name);
    glObjectLabel(GL_FRAMEBUFFER, name, -1, label.c_str());
    return Framebuffer(name);
}

/// A debug group for its lifetime, so that outside tools show our names.
struct DebugGroup {
    explicit DebugGroup(const std::string& name) { glPushDebugGroup(GL_DEBUG_SOURCE_APPLICATION, 0, -1, name.c_str()); }
    ~DebugGroup() { glPopDebugGroup(); }
    DebugGroup(const DebugGroup&) = delete;
    DebugGroup& operator=(const DebugGroup&) = delete;
};

} // namespace mirolux::gpu

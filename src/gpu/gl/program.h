#pragma once
#include "gpu/gl/objects.h"
#include "gpu/gl/shader_source.h"
#include <list>
#include <memory>

namespace mirolux::gpu {

struct ShaderStage {
    GLenum stage;     // GL_VERTEX_SHADER, GL_FRAGMENT_SHADER, GL_COMPUTE_SHADER
    std::string file; // in the library, or a name when text is given
    std::string text; // used instead of the file when not empty
};

/// A linked program and what it asks for by name. Units and binding points are given to each program for what it uses,
/// so that shaders and passes hold no numbers.
struct BuiltProgram {
    Program program;
    std::map<std::string, GLuint> samplers; // name -> texture unit
    std::map<std::string, GLuint> images;   // name of a picture that is written -> image unit
    std::map<std::string, GLuint> blocks;   // name of a storage block -> binding point
    std::map<std::string, GLint> uniforms;  // others: name -> location

    GLuint name() const { return program.name(); }
    /// Location of a uniform, or -1, which GL takes and ignores: a variant need not use all.
    GLint uniform(const std::string& uniform) const {
        const auto it = uniforms.find(uniform);
        return it == uniforms.end() ? -1 : it->second;
    }
};
using ProgramPtr = std::shared_ptr<const BuiltProgram>;

/// Compiles and links. Errors name the shader file and line, and carry the driver's words.
Result<BuiltProgram> build_program(const ShaderLibrary& library, const std::vector<ShaderStage>& stages,
                                   const std::vector<std::string>& defines, const GeneratedFiles& generated = {});

/// Programs by stages, defines and generated text, built on first use. The least recently used are let go beyond a
/// bound: whoever holds a pointer keeps its program.
class ProgramCache {
public:
    explicit ProgramCache(ShaderLibrary library) : library_(std::move(library)), stamp_(library_.stamp()) {}
    Result<ProgramPtr> get(const std::vector<ShaderStage>& stages, const std::vector<std::string>& defines,
                           const GeneratedFiles& generated = {});
    const ShaderLibrary& library() const { return library_; }
    /// How often an instrumented variant (COUNT, LEDGER, PASS_PROBE) was asked for; a timed frame must not change it.
    std::uint64_t instrumented_uses() const { return instrumentedUses_; }
    std::size_t size() const { return programs_.size(); }
    /// Called when a program has to be built, before it is.
    void on_build(std::function<void(const std::string&)> listener) { building_ = std::move(listener); }
    /// Drops every program if a file changed since the last call; says whether it did.
    bool refresh();

    /// Programs kept; a frame with all its instruments needs about 40, a round of calibration about 300.
    std::size_t most = 120;

private:
    struct Entry {
        ProgramPtr program;
        std::list<std::string>::iterator use;
    };
    ShaderLibrary library_;
    std::uint64_t stamp_, instrumentedUses_ = 0;
    std::map<std::string, Entry> programs_;
    std::list<std::string> order_; // of use, latest first
    std::function<void(const std::string&)> building_;
};

} // namespace mirolux::gpu

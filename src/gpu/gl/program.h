#pragma once
#include "gpu/gl/objects.h"
#include "gpu/gl/shader_source.h"

namespace mirolux::gpu {

struct ShaderStage {
    GLenum stage;     // GL_VERTEX_SHADER, GL_FRAGMENT_SHADER, GL_COMPUTE_SHADER
    std::string file; // in the library, or a name when text is given
    std::string text; // used instead of the file when not empty
};

/// Compiles and links. Errors name the shader file and line, and carry the driver's words.
Result<Program> build_program(const ShaderLibrary& library, const std::vector<ShaderStage>& stages,
                              const std::vector<std::string>& defines);

/// Programs by files and defines, built on first use and kept until the library's files change.
class ProgramCache {
public:
    explicit ProgramCache(ShaderLibrary library) : library_(std::move(library)), stamp_(library_.stamp()) {}
    Result<GLuint> get(const std::string& vertexFile, const std::string& fragmentFile,
                       const std::vector<std::string>& defines);
    Result<GLuint> get_compute(const std::string& file, const std::vector<std::string>& defines);
    const ShaderLibrary& library() const { return library_; }
    /// How often an instrumented variant (COUNT, LEDGER, PASS_PROBE) was asked for; a timed frame must not change it.
    std::uint64_t instrumented_uses() const { return instrumentedUses_; }
    /// Drops every program if a file changed since the last call; says whether it did.
    bool refresh();

private:
    ShaderLibrary library_;
    std::uint64_t stamp_, instrumentedUses_ = 0;
    std::map<std::string, Program> programs_;
};

} // namespace mirolux::gpu

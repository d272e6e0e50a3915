#pragma once
#include "core/ambient/environment.h"
#include "gpu/passes/surface_pass.h"

// Cube maps of radiance averaged over lobes, on the device: what surroundings and captures of probes have in common.
namespace mirolux::gpu {

/// A cube map's faces as something else than the layers that they are drawn to. Made for each frame.
GLuint cube_view(PassFrame& f, const std::string& resource, GLenum target, int layers, const char* name);
/// A framebuffer that takes a face of a mip at a time.
GLuint face_target(PassFrame& f);
void draw_face(const Stage& stage, PassState state, GLuint texture, int size, int mip, int layer);
/// Linear between texels, none beyond the edge.
void smooth(GLuint texture);
/// The table of split sums on the device, as the sampler `splitSums`.
void provide_split_sums(PassFrame& f);

/// Averages a cube over lobes of all widths of `levels`.
class LobeGather {
public:
    /// `cube`: what is averaged, with its mips. `sources`: of each set of lobes that will be drawn the picture with its
    /// bright texels lowered; null: drawn by the device.
    static Result<LobeGather> prepare(PassFrame& f, const LobeLevels& levels, GLuint cube, const std::string& name,
                                      std::vector<std::shared_ptr<const CubeOfPicture>> sources);
    /// Draws a source's lobes into the layers of a cube map array from `firstLayer` on, divided by `scale`.
    void draw(PassFrame& f, std::size_t source, GLuint texture, int firstLayer, double scale) const;
    /// Draws that a source takes.
    std::uint64_t draws(std::size_t source) const;

private:
    LobeLevels levels_;
    Stage mirror_, lobe_;
    PassState state_;
    std::vector<GLint> first_; // sample of each level, and the end
    std::vector<std::shared_ptr<const CubeOfPicture>> sources_;
    std::vector<std::size_t> firstBright_; // of each source
};

} // namespace mirolux::gpu

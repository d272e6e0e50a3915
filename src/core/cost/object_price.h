#pragma once
#include "core/cost/measure.h"
#include "core/image/difference.h"

namespace mirolux {

/// What objects of a scene cost: the frame with them and without them, in turn, and how far the pictures are apart.
struct ObjectPrice {
    PairedMeasurement times; // A: with them; B: without
    PictureDifference picture;
    int objects = 0;
    /// Milliseconds, by the paired ratio of the frames.
    double ms() const { return times.a.frame.median * (1 - times.frame.ratio); }
};

/// A scene without some of its objects (numbers into Scene::objects()).
Scene without_objects(Scene scene, const std::vector<int>& objects);

/// How far the picture of a scene is from that of another state of it.
Result<PictureDifference> difference_of(RenderSession& session, const Scene& scene, const Scene& other,
                                        const Setup& setup, const View& view);

/// go_on: told the share that is done; false ends it.
Result<ObjectPrice> price_objects(RenderSession& session, const Scene& scene, const std::vector<int>& objects,
                                  const Setup& setup, const View& view, int rounds,
                                  const std::function<bool(double)>& go_on = {});

} // namespace mirolux

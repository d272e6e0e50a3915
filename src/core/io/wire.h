#pragma once
#include "core/base/error.h"
#include "core/cost/frame_record.h"
#include "core/io/json_cursor.h"
#include "core/scene/built.h"

// Values as JSON, for the worker's messages (CBOR), the project file and --json. Readers throw ReadFailure.
namespace mirolux {

Json to_json(const Light& light);
Light light_from_json(const JsonCursor& json, const Light& base = {});
Json to_json(const ObjectEdit& edit); // what changes nothing is left out
ObjectEdit object_edit_from_json(const JsonCursor& json);
Json to_json(const Built& built); // things of one make share it
BuiltPtr built_from_json(const JsonCursor& json);
Json to_json(const AirVolume& volume); // what is as usual is left out
AirVolume air_volume_from_json(const JsonCursor& json);
Json to_json(const Door& door); // what is as usual is left out
Door door_from_json(const JsonCursor& json);
Json to_json(const DrawnRoom& room);
DrawnRoom drawn_room_from_json(const JsonCursor& json);
Json to_json(const Probe& probe); // what is as usual is left out
Probe probe_from_json(const JsonCursor& json);
Json to_json(const CheapLight& light); // only what its shape has
CheapLight cheap_light_from_json(const JsonCursor& json);
Json to_json(const Motion& motion);
Motion motion_from_json(const JsonCursor& json);
Json to_json(const ClipPlay& play); // what is as usual is left out
ClipPlay clip_play_from_json(const JsonCursor& json);
Json to_json(const Camera& camera);
Camera camera_from_json(const JsonCursor& json);
Json to_json(const View& view);
View view_from_json(const JsonCursor& json);
Setup setup_from_json(const JsonCursor& json); // {key: value}; unknown keys and bad values throw
Json to_json(const RenderOptions& options);
RenderOptions options_from_json(const JsonCursor& json);
Json to_json(const Work& work);
Work work_from_json(const JsonCursor& json); // counters that are not there are 0
Json to_json(const DeviceInfo& device);
DeviceInfo device_from_json(const JsonCursor& json);
Json to_json(const FramePlan& plan);
/// All of a record but its pictures.
Json to_json(const FrameRecord& record);
FrameRecord record_from_json(const JsonCursor& json);

/// What turns `from` into `to`: {"count", "set": {index: light}}; empty "set" if nothing changed.
Json light_patch(const std::vector<Light>& from, const std::vector<Light>& to);
void apply_light_patch(std::vector<Light>& lights, const JsonCursor& patch);
/// The same for edits of objects, by id: {"set": [edit], "gone": [id]}; null if nothing changed.
Json object_patch(const std::vector<ObjectEdit>& from, const std::vector<ObjectEdit>& to);
void apply_object_patch(std::vector<ObjectEdit>& edits, const JsonCursor& patch);

/// A message between program and worker from its bytes (CBOR, RFC 8949). Throws ReadFailure for anything else.
Json message_from_bytes(const std::uint8_t* data, std::size_t bytes);

} // namespace mirolux

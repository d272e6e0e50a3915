#pragma once
#include "client/shared_memory.h"
#include "core/io/wire.h"
#include <optional>
#include <zmq.hpp>

// The worker's messages: one CBOR map each over a ZeroMQ pair socket; docs/worker-protocol.md describes them.
namespace mirolux {

/// Throws ReadFailure if the other end does not take it within `milliseconds`.
void send_message(zmq::socket_t& socket, const Json& message, int milliseconds = 5000);
/// Waits up to `milliseconds` (negative: for ever); empty on time-out. Throws ReadFailure on what is not a message.
std::optional<Json> receive_message(zmq::socket_t& socket, int milliseconds);

/// A record's message, and the memory that its pictures lie in; the message says where each lies there. Whoever sends
/// it keeps the memory until it is answered or asked again.
struct PackedRecord {
    Json message;
    std::optional<SharedMemory> memory;
};
Result<PackedRecord> pack_record(const FrameRecord& record);
Result<FrameRecord> unpack_record(const Json& message);

} // namespace mirolux

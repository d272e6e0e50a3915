#pragma once
#include "client/shared_memory.h"
#include "core/io/wire.h"
#include <optional>
#include <zmq.hpp>

// The worker's messages: one CBOR map each over a ZeroMQ pair socket; docs/worker-protocol.md describes them.
namespace mirolux {

void send_message(zmq::socket_t& socket, const Json& message);
/// Waits up to `milliseconds` (negative: for ever); empty on time-out. Throws ReadFailure on what is not a message.
std::optional<Json> receive_message(zmq::socket_t& socket, int milliseconds);

/// A record's pictures go into one shared-memory segment; the message tells where each lies.
Result<Json> pack_record(const FrameRecord& record, const std::string& memoryName);
Result<FrameRecord> unpack_record(const Json& message);

} // namespace mirolux

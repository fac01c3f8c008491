#include "model/gltf/document.h"

#include <periscena/base/error.h>
#include <periscena/base/file.h>

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cstring>

namespace periscena::gltf {
namespace {

constexpr std::uint32_t glb_mark = 0x46546C67, json_chunk = 0x4E4F534A, binary_chunk = 0x004E4942;

std::uint32_t word_at(std::string_view bytes, std::size_t offset) {
  std::uint32_t word = 0;
  std::memcpy(&word, bytes.data() + offset, sizeof(word));
  return word;
}

/// Nothing that is read goes deeper; what is deeper only wants to break recursive readers.
constexpr int deepest = 100;

bool is_too_deep(std::string_view json) {
  int depth = 0;
  bool in_text = false;
  for (std::size_t i = 0; i < json.size(); ++i) {
    const char c = json[i];
    if (in_text) {
      if (c == '\\') ++i;
      if (c == '"') in_text = false;
      continue;
    }
    if (c == '"') in_text = true;
    if ((c == '{' || c == '[') && ++depth > deepest) return true;
    if (c == '}' || c == ']') --depth;
  }
  return false;
}

/// RFC 4648. @return nothing for other characters
std::optional<std::string> decode_base64(std::string_view text) {
  std::string bytes;
  bytes.reserve(text.size() / 4 * 3);
  std::uint32_t bits = 0;
  int count = 0;
  while (text.ends_with('=')) text.remove_suffix(1);
  for (const char c : text) {
    constexpr std::string_view alphabet = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    const std::size_t value = alphabet.find(c);
    if (value == std::string_view::npos) return std::nullopt;
    bits = bits << 6 | static_cast<std::uint32_t>(value);
    count += 6;
    if (count < 8) continue;
    count -= 8;
    bytes += static_cast<char>(bits >> count & 0xFF);
  }
  return bytes;
}

/// RFC 3986, 2.1.
std::string decode_percents(const std::string& uri) {
  std::string path;
  for (std::size_t i = 0; i < uri.size(); ++i) {
    const auto digit = [&](std::size_t at) {
      constexpr std::string_view digits = "0123456789abcdef";
      return at < uri.size() ? digits.find(static_cast<char>(std::tolower(uri[at]))) : std::string_view::npos;
    };
    const std::size_t high = digit(i + 1), low = digit(i + 2);
    if (uri[i] == '%' && high != std::string_view::npos && low != std::string_view::npos) {
      path += static_cast<char>(high * 16 + low);
      i += 2;
    } else {
      path += uri[i];
    }
  }
  return path;
}

Part part_of(std::shared_ptr<Source> source) {
  const std::uint64_t size = source->size();
  return {std::move(source), 0, size};
}

}  // namespace

void Budget::spend(std::size_t count, std::size_t bytes_each, const JsonReader& where) {
  if (bytes_each > 0 && count > left_ / bytes_each) {
    where.refuse(fmt::format("asks for {} times {} bytes, out of all proportion to the file", count, bytes_each),
                 "split the model, or look at what wrote it");
  }
  left_ -= count * bytes_each;
}

Document::Document(std::shared_ptr<Source> file, const std::string& name, std::filesystem::path folder)
    : name_(name), folder_(std::move(folder)), file_(std::move(file)), budget_(file_->size()) {
  const bool glb = file_->size() >= 4 && word_at(file_->read(0, 4).text(), 0) == glb_mark;
  if (glb) {
    split_glb();
  } else {
    parse_json(file_->read(0, file_->size()).text());
  }
  const JsonReader top = root();
  top.expect_object();
  const std::string version = top.at("asset").at("version").text();
  if (!version.starts_with("2."))
    top.at("asset").refuse(fmt::format("says version {}", version), "export it as glTF 2.0");
  if (const auto least = top.at("asset").find("minVersion"); least && least->text() != "2.0")
    top.at("asset").refuse(fmt::format("needs version {} to be read", least->text()), "export it as glTF 2.0");
  buffers_.resize(count("buffers"));
}

void Document::split_glb() {
  const auto refuse = [&](const std::string& cause) {
    fail("broken-gltf", Place::file(name_), fmt::format("{} {}", name_, cause), "export the file again");
  };
  if (file_->size() < 20) refuse(fmt::format("ends after {} bytes", file_->size()));
  const Bytes head = file_->read(0, 12);
  if (word_at(head.text(), 4) != 2) refuse(fmt::format("is a .glb of version {}, not 2", word_at(head.text(), 4)));
  const std::uint64_t length = word_at(head.text(), 8);
  if (length > file_->size())
    refuse(fmt::format("is {} bytes long, but says that it has {}: it was cut short", file_->size(), length));
  Part json{file_, 0, 0};
  for (std::uint64_t at = 12; at + 8 <= length;) {
    const Bytes chunk_head = file_->read(at, 8);
    const std::uint64_t bytes = word_at(chunk_head.text(), 0);
    const std::uint32_t type = word_at(chunk_head.text(), 4);
    if (bytes > length - at - 8)
      refuse(fmt::format("has a chunk of {} bytes where {} are left", bytes, length - at - 8));
    if (at == 12 && type != json_chunk) refuse("does not begin with its JSON");
    if (at == 12) json = {file_, at + 8, bytes};
    if (at > 12 && type == binary_chunk && !binary_) binary_ = Part{file_, at + 8, bytes};
    at += 8 + bytes;
  }
  parse_json(file_->read(json.offset, json.size).text());
}

void Document::parse_json(std::string_view text) {
  if (text.starts_with("\xEF\xBB\xBF")) text.remove_prefix(3);
  const auto refuse = [&](const std::string& cause) {
    fail("broken-gltf", Place::file(name_), fmt::format("{} {}", name_, cause), "export the file again");
  };
  if (is_too_deep(text)) refuse(fmt::format("nests its JSON over {} deep", deepest));
  try {
    json_ = Json::parse(text);
  } catch (const Json::exception& error) {
    std::string cause = error.what();
    if (const auto end = cause.find("] "); end != std::string::npos) cause = cause.substr(end + 2);
    for (char& c : cause) {
      if (static_cast<unsigned char>(c) >= 0x80 || static_cast<unsigned char>(c) < 0x20) c = '?';
    }
    refuse(fmt::format("is no glTF: {}", cause));
  }
}

std::size_t Document::count(const char* list) const {
  const auto found = root().find(list);
  if (!found) return 0;
  if (!found->value().is_array()) found->refuse("must be a list");
  return found->value().size();
}

JsonReader Document::item(const char* list, std::size_t index) const {
  return {json_.at(list).at(index), fmt::format("{}[{}]", list, index), name_};
}

Part Document::resource(const JsonReader& uri) {
  const std::string text = uri.text();
  if (text.starts_with("data:")) {
    const std::size_t comma = text.find(',');
    const bool base64 = comma != std::string::npos && text.substr(0, comma).ends_with(";base64");
    auto bytes = base64 ? decode_base64(std::string_view(text).substr(comma + 1)) : std::nullopt;
    if (!bytes) uri.refuse("holds data that is not base64");
    return part_of(memory_source(std::move(*bytes)));
  }
  return part_of(file_source(file_beside(uri, decode_percents(text))));
}

std::filesystem::path Document::file_beside(const JsonReader& where, const std::string& relative) const {
  const auto path = path_within(folder_, relative);
  if (path && relative.find("://") == std::string::npos) return *path;
  fail("path-outside", Place::file(name_),
       fmt::format("{} names \"{}\", which is not in the file's folder", where.path(), relative),
       "put the file itself beside the model, or below");
}

Part Document::buffer(std::size_t index) {
  std::optional<Part>& known = buffers_[index];
  if (known) return *known;
  const JsonReader buffer = item("buffers", index);
  const std::uint64_t length = buffer.at("byteLength").whole();
  if (const auto uri = buffer.find("uri")) {
    known = resource(*uri);
  } else if (index == 0 && binary_) {
    known = binary_;
  } else {
    buffer.refuse("names no file, and there is no binary chunk for it");
  }
  if (known->size < length)
    buffer.refuse(fmt::format("says that it has {} bytes, but there are {}", length, known->size));
  known->size = length;
  return *known;
}

Part Document::view(std::size_t index) {
  const JsonReader view = item("bufferViews", index);
  const std::size_t number = view.at("buffer").index(count("buffers"), "buffers");
  Part part = buffer(number);
  const std::uint64_t offset = view.whole("byteOffset", 0), length = view.at("byteLength").whole();
  if (offset > part.size || length > part.size - offset)
    view.refuse(fmt::format("reaches from byte {} to {} of a buffer of {} bytes", offset, offset + length, part.size));
  return {part.source, part.offset + offset, length};
}

Bytes Document::read(const Part& part, std::uint64_t offset, std::uint64_t length, const JsonReader& where) {
  budget_.spend(part.source->cost(part.offset + offset, length), 1, where);
  return part.source->read(part.offset + offset, length);
}

}  // namespace periscena::gltf

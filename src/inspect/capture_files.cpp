#include <periscena/inspect/capture.h>

#include "inspect/json.h"

#include <periscena/base/error.h>
#include <periscena/base/file.h>
#include <periscena/base/hash.h>
#include <periscena/image/files.h>

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cmath>

#include <unistd.h>

namespace periscena::inspect {
namespace {

namespace fs = std::filesystem;

constexpr const char* index_name = "index.json";
constexpr int index_version = 1;

/// A name that every file system takes.
std::string plain_name(const std::string& name) {
  std::string plain;
  for (const char c : name) {
    const auto letter = static_cast<unsigned char>(c);
    if (std::isalnum(letter) || c == '.' || c == '_') {
      plain += c;
    } else if (!plain.empty() && plain.back() != '-') {
      plain += '-';
    }
  }
  while (!plain.empty() && (plain.back() == '-' || plain.back() == '.')) plain.pop_back();
  return plain.empty() ? "x" : plain.substr(0, 60);
}

std::string file_name(const CapturedTarget& found, const std::vector<CaptureEntry>& earlier) {
  std::string name = fmt::format("{:03}-{}-{}", found.pass + 1, plain_name(found.pass_name), plain_name(found.target));
  if (found.levels > 1) name += fmt::format("-level{}", found.level);
  if (found.layers > 1) name += fmt::format("-layer{}", found.layer);
  if (found.stencil) name += "-stencil";
  const std::string ending = found.image.is_eight_bit() ? ".png" : ".exr";
  const auto taken = [&](const std::string& wanted) {
    return std::any_of(earlier.begin(), earlier.end(), [&](const CaptureEntry& entry) { return entry.file == wanted; });
  };
  std::string unique = name + ending;
  for (int i = 2; taken(unique); ++i) unique = fmt::format("{}-{}{}", name, i, ending);
  return unique;
}

std::string hash_text(const std::string& bytes) {
  return fmt::format("{:016x}", content_hash(bytes));
}

Json statistics_json(const Image& image, int channels) {
  Json list = Json::array();
  const auto found = statistics(image);
  for (int c = 0; c < channels; ++c) {
    const ChannelStatistics& one = found[static_cast<std::size_t>(c)];
    list.push_back({{"min", one.finite ? Json(one.least) : Json()},
                    {"max", one.finite ? Json(one.most) : Json()},
                    {"mean", one.finite ? Json(one.mean) : Json()},
                    {"nan", one.nan},
                    {"infinite", one.infinite}});
  }
  return list;
}

Json lens_json(const Camera& camera) {
  return {{"near", camera.near},
          {"far", std::isfinite(camera.far) ? Json(camera.far) : Json("infinite")},
          {"order", camera.depth == DepthOrder::reversed ? "reversed" : "ordinary"}};
}

Json entry_json(const CaptureEntry& entry, const CapturedTarget& found) {
  const FormatInfo& format = info(found.format);
  const bool depth = format.depth && !found.stencil;
  Json json{{"target", entry.target},
            {"slot", entry.slot},
            {"format", entry.format},
            {"holds", found.stencil ? "stencil" : std::string(to_string(found.holds))},
            {"width", entry.width},
            {"height", entry.height},
            {"level", entry.level},
            {"layer", entry.layer},
            {"stencil", entry.stencil},
            {"samples", found.samples},
            {"file", entry.file},
            {"bytes", entry.bytes},
            {"hash", entry.hash},
            {"channels",
             statistics_json(found.image, format.color() ? std::min(format.channels, found.image.channels()) : 1)}};
  if (depth && found.camera) json["lens"] = lens_json(*found.camera);
  return json;
}

/// Refuses a folder that holds anything but an earlier capture.
void expect_free(const fs::path& folder) {
  std::error_code ignored;
  if (!fs::exists(fs::symlink_status(folder, ignored))) return;
  const bool is_folder = fs::is_directory(folder, ignored);
  if (is_folder && fs::is_empty(folder, ignored)) return;
  if (is_folder && fs::exists(folder / index_name, ignored)) {
    try {
      read_capture(folder);
      return;
    } catch (const Error&) {
      // An index that is not ours: the folder is somebody else's.
    }
  }
  fail("folder-in-use", {}, fmt::format("\"{}\" is there and is no capture", folder.string()),
       "choose another folder, or remove it");
}

/// A folder beside the wanted one, which takes its place when it is whole.
class NewFolder {
 public:
  explicit NewFolder(fs::path wanted) : wanted_(std::move(wanted)) {
    if (wanted_.empty()) fail("unwritable-file", {}, "the folder has no name", "say where the capture shall go");
    // "." and "a/.." can't be renamed, what they stand for can.
    wanted_ = fs::absolute(wanted_).lexically_normal();
    if (wanted_.filename().empty()) wanted_ = wanted_.parent_path();
    expect_free(wanted_);
    path_ = wanted_;
    path_ += fmt::format(".partial-{}", ::getpid());
    std::error_code error;
    fs::remove_all(path_, error);
    if (!fs::create_directory(path_, error)) {
      fail("unwritable-file", {}, fmt::format("cannot make the folder \"{}\": {}", wanted_.string(), error.message()),
           "check that the folder it shall lie in exists and may be written");
    }
  }
  NewFolder(const NewFolder&) = delete;
  NewFolder& operator=(const NewFolder&) = delete;
  ~NewFolder() {
    std::error_code ignored;
    if (!done_) fs::remove_all(path_, ignored);
  }

  const fs::path& path() const { return path_; }
  const fs::path& wanted() const { return wanted_; }

  void finish() {
    std::error_code error;
    fs::path old = wanted_;
    old += fmt::format(".old-{}", ::getpid());
    const bool replaces = fs::exists(wanted_);
    if (replaces) fs::rename(wanted_, old, error);
    if (!error) fs::rename(path_, wanted_, error);
    if (error) {
      std::error_code ignored;
      if (replaces && !fs::exists(wanted_)) fs::rename(old, wanted_, ignored);
      fail("unwritable-file", {}, fmt::format("cannot put \"{}\" in its place: {}", wanted_.string(), error.message()),
           "check that the folder may be replaced");
    }
    done_ = true;
    if (replaces) fs::remove_all(old, error);
  }

 private:
  fs::path wanted_, path_;
  bool done_ = false;
};

[[noreturn]] void broken(const fs::path& file, const std::string& cause) {
  fail("broken-capture", {}, fmt::format("\"{}\" {}", file.string(), cause), "capture the frame again");
}

CaptureEntry read_entry(const Json& json, const std::string& pass, std::size_t pass_index) {
  CaptureEntry entry;
  entry.pass = pass;
  entry.pass_index = pass_index;
  entry.target = json.at("target").get<std::string>();
  entry.slot = json.at("slot").get<std::string>();
  entry.level = json.at("level").get<int>();
  entry.layer = json.at("layer").get<int>();
  entry.stencil = json.at("stencil").get<bool>();
  entry.file = json.at("file").get<std::string>();
  entry.width = json.at("width").get<int>();
  entry.height = json.at("height").get<int>();
  entry.format = json.at("format").get<std::string>();
  entry.bytes = json.at("bytes").get<std::size_t>();
  entry.hash = json.at("hash").get<std::string>();
  if (entry.file.empty() || entry.file.find('/') != std::string::npos || entry.file == "..")
    throw std::runtime_error("names a file outside of its folder");
  return entry;
}

}  // namespace

CaptureIndex write_capture(gl::FrameRunner& runner, const Moment& moment, const fs::path& folder) {
  NewFolder made(folder);
  CaptureIndex index{folder, runner.plan().width(), runner.plan().height(), moment.seconds, {}};
  Json passes = Json::array();
  for (const PlannedPass& pass : runner.plan().passes()) {
    passes.push_back({{"name", pass.name},
                      {"kind", pass.kind},
                      {"width", pass.width},
                      {"height", pass.height},
                      {"put_in", !pass.declared},
                      {"targets", Json::array()}});
  }
  visit_targets(runner, moment, [&](const CapturedTarget& found) {
    CaptureEntry entry{found.pass_name,
                       found.target,
                       found.slot,
                       found.pass,
                       found.level,
                       found.layer,
                       found.stencil,
                       file_name(found, index.entries),
                       found.image.width(),
                       found.image.height(),
                       std::string(to_string(found.format)),
                       0,
                       {}};
    const fs::path path = made.path() / entry.file;
    if (found.image.is_eight_bit()) {
      write_png(found.image, path);
    } else {
      write_exr(found.image, path, info(found.format).depth ? "Z" : "RGBA");
    }
    const std::string bytes = read_bytes(path);
    entry.bytes = bytes.size();
    entry.hash = hash_text(bytes);
    passes[found.pass]["targets"].push_back(entry_json(entry, found));
    index.entries.push_back(std::move(entry));
  });
  const Json json{{"periscena_capture", index_version},
                  {"width", index.width},
                  {"height", index.height},
                  {"seconds", index.seconds},
                  {"passes", passes}};
  write_file(made.path() / index_name, dump(json));
  made.finish();
  return index;
}

CaptureIndex read_capture(const fs::path& folder) {
  const fs::path file = folder / index_name;
  const std::string text = read_text(file)->text;
  CaptureIndex index;
  index.folder = folder;
  try {
    const Json json = Json::parse(text);
    if (json.at("periscena_capture").get<int>() != index_version) throw std::runtime_error("is of another version");
    index.width = json.at("width").get<int>();
    index.height = json.at("height").get<int>();
    index.seconds = json.at("seconds").get<double>();
    std::size_t number = 0;
    for (const Json& pass : json.at("passes")) {
      for (const Json& target : pass.at("targets"))
        index.entries.push_back(read_entry(target, pass.at("name").get<std::string>(), number));
      ++number;
    }
  } catch (const Json::exception& error) {
    broken(file, fmt::format("is no whole index of a capture: {}", error.what()));
  } catch (const std::runtime_error& error) {
    broken(file, error.what());
  }
  return index;
}

Image read_captured(const CaptureIndex& capture, const CaptureEntry& entry) {
  const fs::path path = capture.folder / entry.file;
  std::error_code ignored;
  if (!fs::exists(path, ignored))
    broken(path, fmt::format("is missing; it holds \"{}\" after \"{}\"", entry.target, entry.pass));
  const std::string bytes = read_bytes(path);
  if (bytes.size() != entry.bytes)
    broken(path, fmt::format("has {} bytes and was written with {}", bytes.size(), entry.bytes));
  if (hash_text(bytes) != entry.hash) broken(path, "is not the file that was written");
  Image image = read_image(path);
  if (image.width() != entry.width || image.height() != entry.height)
    broken(path, "has another size than the index says");
  return image;
}

}  // namespace periscena::inspect

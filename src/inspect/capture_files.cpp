#include <periscena/inspect/capture.h>

#include "inspect/json.h"

#include <periscena/base/error.h>
#include <periscena/base/file.h>
#include <periscena/base/hash.h>
#include <periscena/base/temporary.h>
#include <periscena/image/files.h>

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <map>
#include <set>
#include <system_error>

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

/// @param taken  names in the folder; the new one is added
std::string file_name(const CapturedTarget& found, std::set<std::string>& taken) {
  std::string name = fmt::format("{:03}-{}-{}", found.pass + 1, plain_name(found.pass_name), plain_name(found.target));
  if (found.levels > 1) name += fmt::format("-level{}", found.level);
  if (found.layers > 1) name += fmt::format("-layer{}", found.layer);
  if (found.stencil) name += "-stencil";
  const std::string ending = found.image.is_eight_bit() ? ".png" : ".exr";
  std::string unique = name + ending;
  for (int i = 2; !taken.insert(unique).second; ++i) unique = fmt::format("{}-{}{}", name, i, ending);
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

/// Removes only what an earlier capture has written.
struct EarlierCapture {
  static constexpr std::size_t any_size = ~std::size_t{0};

  std::map<std::string, std::size_t> files;  ///< names in the folder, and the bytes that were written; the index: any

  /// @return nothing when there is no such folder, or an empty one
  /// @throws Error "folder-in-use" for a folder that holds anything else
  static std::optional<EarlierCapture> in(const fs::path& folder) {
    std::error_code ignored;
    if (!fs::exists(fs::symlink_status(folder, ignored))) return std::nullopt;
    const auto refuse = [&](const std::string& why, const std::string& mend) {
      fail("folder-in-use", {}, fmt::format("\"{}\" {}", folder.string(), why), mend);
    };
    if (!fs::is_directory(folder, ignored)) refuse("is there and is no folder", "choose another name");
    if (fs::is_empty(folder, ignored)) return EarlierCapture{};
    EarlierCapture found;
    try {
      for (const CaptureEntry& entry : read_capture(folder).entries) found.files.emplace(entry.file, entry.bytes);
      found.files[index_name] = any_size;
    } catch (const Error&) {
      refuse("is there and is no capture", "name a folder that is not there yet, an empty one, or an earlier capture");
    }
    if (const std::string other = found.stranger(folder); !other.empty()) {
      refuse(fmt::format("holds \"{}\", which the capture there has not written, or not so", other),
             "move it elsewhere, or choose another folder: an earlier capture is replaced as a whole");
    }
    return found;
  }

  /// A file in the folder that is not as the capture wrote it; empty when there is none.
  std::string stranger(const fs::path& folder) const {
    std::error_code ignored;
    for (const fs::directory_entry& entry : fs::directory_iterator(folder, ignored)) {
      std::string name = entry.path().filename().string();
      const auto known = files.find(name);
      const bool ours = known != files.end() && entry.is_regular_file(ignored) && !entry.is_symlink(ignored) &&
                        (known->second == any_size || entry.file_size(ignored) == known->second);
      if (!ours) return name;
    }
    return {};
  }

  void remove_from(const fs::path& folder) const {
    std::error_code ignored;
    for (const auto& [file, bytes] : files) fs::remove(folder / file, ignored);
    fs::remove(folder, ignored);  // only when it is empty
  }
};

/// A folder beside the wanted one, which takes its place when it is whole.
class NewFolder {
 public:
  explicit NewFolder(fs::path wanted) : wanted_(target_of(std::move(wanted))) {
    EarlierCapture::in(wanted_);
    remove_leftovers(wanted_.parent_path());
    try {
      made_.emplace(wanted_.parent_path());
    } catch (const std::system_error& error) {
      fail("unwritable-file", {},
           fmt::format("cannot make the folder \"{}\": {}", wanted_.string(), error.code().message()),
           "check that the folder it shall lie in exists and may be written");
    }
  }

  const fs::path& path() const { return made_->path(); }

  /// There is a capture under the name at any moment: the earlier one, or the whole new one.
  void finish() {
    const std::optional<EarlierCapture> earlier = EarlierCapture::in(wanted_);
    try {
      if (!earlier) return made_->place(wanted_);
      std::error_code ignored;
      fs::permissions(made_->path(), fs::status(wanted_, ignored).permissions(), ignored);
      made_->exchange(wanted_);
    } catch (const std::system_error& error) {
      fail("unwritable-file", {},
           fmt::format("cannot put \"{}\" in its place: {}", wanted_.string(), error.code().message()),
           "the earlier capture is still there; remove it, or choose another folder");
    }
    remove(*earlier);
  }

 private:
  static fs::path target_of(fs::path wanted) {
    if (wanted.empty()) fail("unwritable-file", {}, "the folder has no name", "say where the capture shall go");
    // "." and "a/.." can't be renamed, nor a link's target by the link's name; what they stand for can.
    std::error_code code;
    wanted = fs::absolute(wanted).lexically_normal();
    if (wanted.filename().empty()) wanted = wanted.parent_path();
    const fs::path real = fs::is_symlink(wanted, code) ? fs::weakly_canonical(wanted, code) : wanted;
    if (file_identity(real) && file_identity(real) == file_identity(".")) {
      fail("folder-in-use", {},
           fmt::format("\"{}\" is the current folder, and a capture replaces its folder", real.string()),
           "name a folder in it, or capture from another one");
    }
    return real.empty() ? wanted : real;
  }

  /// The made folder's name leads to the earlier capture now. What came into it meanwhile is not ours to remove.
  void remove(const EarlierCapture& earlier) {
    if (const std::string other = earlier.stranger(made_->path()); !other.empty()) {
      made_->exchange(wanted_);
      fail("folder-in-use", {}, fmt::format("\"{}\" has got a file \"{}\" meanwhile", wanted_.string(), other),
           "move it elsewhere, and capture again");
    }
    earlier.remove_from(made_->path());
    made_->keep();  // should anything have come into it even now
  }

  fs::path wanted_;
  std::optional<TemporaryFolder> made_;
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
  if (entry.file.empty() || entry.file.find('/') != std::string::npos || entry.file == ".." || entry.file == "." ||
      entry.file.find('\0') != std::string::npos)
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
  std::set<std::string> names;
  visit_targets(runner, moment, [&](const CapturedTarget& found) {
    CaptureEntry entry{found.pass_name,
                       found.target,
                       found.slot,
                       found.pass,
                       found.level,
                       found.layer,
                       found.stencil,
                       file_name(found, names),
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

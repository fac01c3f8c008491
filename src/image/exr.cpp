#include "image/decoders.h"

#include <periscena/base/error.h>
#include <periscena/base/file.h>

#include <ImfChannelList.h>
#include <ImfFrameBuffer.h>
#include <ImfHeader.h>
#include <ImfIO.h>
#include <ImfInputFile.h>
#include <ImfOutputFile.h>
#include <ImfStringAttribute.h>
#include <fmt/format.h>

#include <algorithm>
#include <cstring>

namespace periscena {
namespace {

constexpr const char* sign_attribute = "integers";

/// A file in memory, so that what reaches the disk is whole.
class MemoryOutput final : public Imf::OStream {
 public:
  MemoryOutput() : Imf::OStream("memory") {}

  void write(const char bytes[], int count) override {
    const std::size_t end = position_ + static_cast<std::size_t>(count);
    if (file.size() < end) file.resize(end);
    std::memcpy(file.data() + position_, bytes, static_cast<std::size_t>(count));
    position_ = end;
  }
  std::uint64_t tellp() override { return position_; }
  void seekp(std::uint64_t position) override { position_ = position; }

  std::string file;

 private:
  std::size_t position_ = 0;
};

class MemoryInput final : public Imf::IStream {
 public:
  explicit MemoryInput(std::string_view file) : Imf::IStream("memory"), file_(file) {}

  bool read(char bytes[], int count) override {
    const auto wanted = static_cast<std::size_t>(count);
    if (position_ > file_.size() || wanted > file_.size() - position_) throw std::runtime_error("it ends too early");
    std::memcpy(bytes, file_.data() + position_, wanted);
    position_ += wanted;
    return position_ < file_.size();
  }
  std::uint64_t tellg() override { return position_; }
  void seekg(std::uint64_t position) override { position_ = position; }

 private:
  std::string_view file_;
  std::size_t position_ = 0;
};

Imf::Slice slice_of(Image& image, int channel, Imf::PixelType type, int left, int top) {
  const auto step = static_cast<std::size_t>(info(image.format()).bytes);
  char* first = reinterpret_cast<char*>(image.bytes().data()) + static_cast<std::size_t>(channel) * 4;
  const std::ptrdiff_t origin = static_cast<std::ptrdiff_t>(top) * static_cast<std::ptrdiff_t>(image.row_bytes()) +
                                static_cast<std::ptrdiff_t>(left) * static_cast<std::ptrdiff_t>(step);
  // The library wants to know where pixel 0, 0 would be, which need not be near the picture: no pointer, but a number.
  const auto base = reinterpret_cast<std::uintptr_t>(first) - static_cast<std::uintptr_t>(origin);
  return {type, reinterpret_cast<char*>(base), step, image.row_bytes()};
}

std::vector<std::string> channel_names(const Imf::Header& header) {
  std::vector<std::string> names;
  for (const char* name : {"R", "G", "B", "A"}) {
    if (header.channels().findChannel(name)) names.emplace_back(name);
  }
  if (!names.empty()) return names;
  for (auto channel = header.channels().begin(); channel != header.channels().end(); ++channel)
    names.emplace_back(channel.name());
  return names;
}

Format format_of(std::size_t channels, bool integers, bool is_signed) {
  const Format one = !integers ? Format::r32f : is_signed ? Format::r32i : Format::r32ui;
  return static_cast<Format>(static_cast<int>(one) + (channels == 1 ? 0 : channels == 2 ? 1 : 2));
}

Image read_channels(Imf::InputFile& file, Pixels pixels) {
  const Imf::Header& header = file.header();
  const auto& window = header.dataWindow();
  const std::int64_t width = std::int64_t{window.max.x} - window.min.x + 1,
                     height = std::int64_t{window.max.y} - window.min.y + 1;
  const std::vector<std::string> names = channel_names(header);
  if (names.empty() || names.size() > 4) throw std::runtime_error(fmt::format("it has {} channels", names.size()));
  const auto integers = [&](const std::string& channel) {
    return header.channels()[channel.c_str()].type == Imf::UINT;
  };
  const bool all_integers = std::all_of(names.begin(), names.end(), integers);
  const auto* sign = header.findTypedAttribute<Imf::StringAttribute>(sign_attribute);
  const Format format = format_of(names.size(), all_integers, sign && sign->value() == "signed");
  if (pixels == Pixels::left_out) return Image::outline(static_cast<int>(width), static_cast<int>(height), format);
  Image image(static_cast<int>(width), static_cast<int>(height), format);
  if (names.size() == 3) {
    for (int y = 0; y < image.height(); ++y) {
      for (int x = 0; x < image.width(); ++x) image.set(x, y, {0, 0, 0, 1});
    }
  }
  Imf::FrameBuffer into;
  for (std::size_t i = 0; i < names.size(); ++i) {
    if (header.channels()[names[i].c_str()].xSampling != 1 || header.channels()[names[i].c_str()].ySampling != 1)
      throw std::runtime_error("its channels have different sizes");
    into.insert(names[i], slice_of(image, static_cast<int>(i), all_integers ? Imf::UINT : Imf::FLOAT, window.min.x,
                                   window.min.y));
  }
  file.setFrameBuffer(into);
  file.readPixels(window.min.y, window.max.y);
  return image;
}

/// Walks over the headers before the library does, which would make room for whatever they claim (OpenEXR file layout:
/// attributes as name, type, length, value; an empty name ends a header, an empty header those of several parts).
class HeaderCheck {
 public:
  HeaderCheck(std::string_view bytes, const std::string& name) : bytes_(bytes), name_(name) {}

  void run() {
    constexpr std::uint32_t several_parts = 1u << 12;
    at_ = 4;
    const bool several = (number() & several_parts) != 0;
    do {
      read_header();
    } while (several && at_ < bytes_.size() && bytes_[at_] != 0);
  }

 private:
  std::uint32_t number() {
    const std::string_view four = take(4);
    std::uint32_t value = 0;
    for (std::size_t i = 0; i < 4; ++i)
      value |= static_cast<std::uint32_t>(static_cast<unsigned char>(four[i])) << (8 * i);
    return value;
  }

  std::string_view take(std::size_t count) {
    if (count > bytes_.size() - at_) throw std::runtime_error("its header claims more than the file holds");
    at_ += count;
    return bytes_.substr(at_ - count, count);
  }

  std::string_view text() {
    const std::size_t end = bytes_.find('\0', at_);
    if (end == bytes_.npos) throw std::runtime_error("its header ends too early");
    const std::string_view found = bytes_.substr(at_, end - at_);
    at_ = end + 1;
    return found;
  }

  void read_header() {
    for (std::string_view name = text(); !name.empty(); name = text()) {
      const std::string_view type = text();
      const std::size_t length = number(), behind = at_ + length;
      take(length);
      at_ = behind - length;
      check_length(type, length);
      if (type == "chlist") read_channels(behind);
      if (type == "tiledesc") check_tiles();
      if (name == "dataWindow" && type == "box2i") check_window();
      at_ = behind;
    }
  }

  /// The library reads values of these types whatever length they claim, and would go on in the wrong place.
  void check_length(std::string_view type, std::size_t length) {
    static constexpr std::pair<std::string_view, std::size_t> lengths[] = {
        {"box2f", 16},      {"box2i", 16},         {"chromaticities", 32},
        {"compression", 1}, {"deepImageState", 1}, {"double", 8},
        {"envmap", 1},      {"float", 4},          {"int", 4},
        {"keycode", 28},    {"lineOrder", 1},      {"m33d", 72},
        {"m33f", 36},       {"m44d", 128},         {"m44f", 64},
        {"rational", 8},    {"v2d", 16},           {"v2f", 8},
        {"v2i", 8},         {"v3d", 24},           {"v3f", 12},
        {"v3i", 12},        {"tiledesc", 9},       {"timecode", 8},
    };
    const auto known =
        std::find_if(std::begin(lengths), std::end(lengths), [&](const auto& one) { return one.first == type; });
    bool fits = known == std::end(lengths) || known->second == length;
    if (type == "preview") {
      const std::size_t start = at_;
      fits = length >= 8;
      if (fits) {
        const std::uint64_t width = number(), height = number();
        fits = width <= length && height <= length && length == 8 + 4 * width * height;
      }
      at_ = start;
    }
    if (!fits) throw std::runtime_error(fmt::format("a {} of its header has {} bytes", type, length));
  }

  /// Name, then type, whether it is perceived linearly, and two steps: 16 bytes. An empty name ends them.
  void read_channels(std::size_t end) {
    while (!text().empty()) take(16);
    if (at_ != end) throw std::runtime_error("its list of channels has a wrong length");
  }

  void check_window() {
    std::int64_t edges[4];
    for (std::int64_t& edge : edges) edge = static_cast<std::int32_t>(number());
    const std::int64_t width = edges[2] - edges[0] + 1, height = edges[3] - edges[1] + 1;
    check_size(width, height);
  }

  void check_tiles() {
    const std::int64_t width = number();
    check_size(width, number());
  }

  void check_size(std::int64_t width, std::int64_t height) const {
    expect_image_size(static_cast<std::uint64_t>(std::max<std::int64_t>(0, width)),
                      static_cast<std::uint64_t>(std::max<std::int64_t>(0, height)), true, name_, "OpenEXR file");
  }

  std::string_view bytes_;
  const std::string& name_;
  std::size_t at_ = 0;
};

}  // namespace

std::string encode_exr(const Image& image, const std::string& channels) {
  const FormatInfo& format = info(image.format());
  if (format.channels * 4 != format.bytes) {
    throw Mistake("image-format", {}, fmt::format("{} is for PNG files", to_string(image.format())),
                  "write it with write_png");
  }
  MemoryOutput output;
  try {
    const Imf::PixelType type = image.is_integer() ? Imf::UINT : Imf::FLOAT;
    Imf::Header header(image.width(), image.height());
    header.compression() = Imf::ZIP_COMPRESSION;
    if (format.numbers == NumberKind::signed_integer) header.insert(sign_attribute, Imf::StringAttribute("signed"));
    Imf::FrameBuffer from;
    for (int i = 0; i < format.channels; ++i) {
      const std::string name(1, channels.at(static_cast<std::size_t>(i)));
      header.channels().insert(name, Imf::Channel(type));
      from.insert(name, slice_of(const_cast<Image&>(image), i, type, 0, 0));
    }
    Imf::OutputFile file(output, header);
    file.setFrameBuffer(from);
    file.writePixels(image.height());
  } catch (const std::exception& error) {
    fail("out-of-memory", {}, fmt::format("cannot make an OpenEXR file: {}", error.what()), "check the free memory");
  }
  return std::move(output.file);
}

void write_exr(const Image& image, const std::filesystem::path& path, const std::string& channels) {
  expect_writable(path);
  write_file(path, encode_exr(image, channels));
}

Image decode_exr(std::string_view bytes, const std::string& name, Pixels pixels) {
  try {
    HeaderCheck(bytes, name).run();
    MemoryInput input(bytes);
    Imf::InputFile file(input);
    return read_channels(file, pixels);
  } catch (const Error&) {
    throw;
  } catch (const std::exception& error) {
    broken_image(name, "OpenEXR file", error.what());
  }
}

}  // namespace periscena

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
  return {type, first - origin, step, image.row_bytes()};
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

Image read_channels(Imf::InputFile& file, const std::string& name) {
  const Imf::Header& header = file.header();
  const auto& window = header.dataWindow();
  const std::int64_t width = std::int64_t{window.max.x} - window.min.x + 1,
                     height = std::int64_t{window.max.y} - window.min.y + 1;
  expect_image_size(static_cast<std::uint64_t>(std::max<std::int64_t>(0, width)),
                    static_cast<std::uint64_t>(std::max<std::int64_t>(0, height)), true, name, "OpenEXR file");
  const std::vector<std::string> names = channel_names(header);
  if (names.empty() || names.size() > 4) throw std::runtime_error(fmt::format("it has {} channels", names.size()));
  const auto integers = [&](const std::string& channel) { return header.channels()[channel.c_str()].type == Imf::UINT; };
  const bool all_integers = std::all_of(names.begin(), names.end(), integers);
  const auto* sign = header.findTypedAttribute<Imf::StringAttribute>(sign_attribute);
  Image image(static_cast<int>(width), static_cast<int>(height),
              format_of(names.size(), all_integers, sign && sign->value() == "signed"));
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

}  // namespace

void write_exr(const Image& image, const std::filesystem::path& path, const std::string& channels) {
  const FormatInfo& format = info(image.format());
  if (format.channels * 4 != format.bytes) {
    throw Mistake("image-format", {}, fmt::format("{} is for PNG files", to_string(image.format())),
                  "write it with write_png");
  }
  expect_writable(path);
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
    fail("unwritable-file", {}, fmt::format("cannot write \"{}\": {}", path.string(), error.what()),
         "check the free memory");
  }
  write_file(path, output.file);
}

Image decode_exr(std::string_view bytes, const std::string& name) {
  try {
    MemoryInput input(bytes);
    Imf::InputFile file(input);
    return read_channels(file, name);
  } catch (const Error&) {
    throw;
  } catch (const std::exception& error) {
    broken_image(name, "OpenEXR file", error.what());
  }
}

}  // namespace periscena

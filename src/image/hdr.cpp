// Radiance's picture format (RGBE), after Ward, "Real Pixels", Graphics Gems II, 1991. Read by hand, as the reader at
// hand waits for ever on a file that is cut short.
#include "image/decoders.h"

#include <periscena/base/error.h>
#include <periscena/base/file.h>

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstring>

namespace periscena {
namespace {

constexpr const char* kind = "Radiance HDR file";

/// Walks over the bytes; every step looks where the end is.
class Reader {
 public:
  Reader(std::string_view bytes, const std::string& name) : bytes_(bytes), name_(name) {}

  [[noreturn]] void refuse(const std::string& cause) const { broken_image(name_, kind, cause); }

  std::string_view line() {
    const std::size_t end = bytes_.find('\n', at_);
    if (end == std::string_view::npos) refuse("its head ends too early");
    const std::string_view line = bytes_.substr(at_, end - at_);
    at_ = end + 1;
    return line;
  }

  std::uint8_t byte() {
    if (at_ == bytes_.size()) refuse("it ends too early");
    return static_cast<std::uint8_t>(bytes_[at_++]);
  }

  std::size_t left() const { return bytes_.size() - at_; }
  std::uint8_t peek(std::size_t ahead) const { return static_cast<std::uint8_t>(bytes_[at_ + ahead]); }

 private:
  std::string_view bytes_;
  const std::string& name_;
  std::size_t at_ = 0;
};

struct Size {
  int width = 0, height = 0;
};

/// "-Y height +X width": rows from the top, from the left.
Size read_size(std::string_view line, const Reader& reader) {
  const auto number = [&](std::string_view axis) {
    if (!line.starts_with(axis)) reader.refuse("its rows run another way than -Y +X");
    line.remove_prefix(axis.size());
    int value = 0;
    const auto read = std::from_chars(line.data(), line.data() + line.size(), value);
    if (read.ec != std::errc() || value < 0) reader.refuse("its size is no number");
    line.remove_prefix(static_cast<std::size_t>(read.ptr - line.data()));
    return value;
  };
  Size size;
  size.height = number("-Y ");
  size.width = number(" +X ");
  return size;
}

/// One row of four bytes a pixel; its channels stand one after the other, as runs and literals.
void read_packed_row(Reader& reader, std::span<std::uint8_t> row, std::size_t width) {
  for (int i = 0; i < 4; ++i) reader.byte();
  for (std::size_t channel = 0; channel < 4; ++channel) {
    for (std::size_t x = 0; x < width;) {
      std::size_t count = reader.byte();
      const bool run = count > 128;
      if (run) count -= 128;
      if (count == 0 || count > width - x) reader.refuse(fmt::format("a run of {} pixels does not fit", count));
      const std::uint8_t value = run ? reader.byte() : std::uint8_t{0};
      for (; count > 0; --count, ++x) row[4 * x + channel] = run ? value : reader.byte();
    }
  }
}

void read_plain_row(Reader& reader, std::span<std::uint8_t> row) {
  for (std::uint8_t& value : row) value = reader.byte();
}

void to_floats(std::span<const std::uint8_t> row, std::byte* into) {
  for (std::size_t i = 0; i + 3 < row.size(); i += 4) {
    const float scale = row[i + 3] == 0 ? 0 : std::ldexp(1.0f, row[i + 3] - (128 + 8));
    const float pixel[4] = {static_cast<float>(row[i]) * scale, static_cast<float>(row[i + 1]) * scale,
                            static_cast<float>(row[i + 2]) * scale, 1};
    std::memcpy(into + 4 * i, pixel, sizeof(pixel));
  }
}

void append_packed(std::string& file, std::span<const std::uint8_t> values) {
  for (std::size_t x = 0; x < values.size();) {
    std::size_t run = 1;
    while (run < 127 && x + run < values.size() && values[x + run] == values[x]) ++run;
    if (run >= 3) {
      file += static_cast<char>(128 + run);
      file += static_cast<char>(values[x]);
      x += run;
      continue;
    }
    // Up to where three equal ones begin.
    std::size_t end = x;
    while (end < values.size() && end - x < 128 &&
           !(end + 2 < values.size() && values[end] == values[end + 1] && values[end] == values[end + 2]))
      ++end;
    file += static_cast<char>(end - x);
    for (; x < end; ++x) file += static_cast<char>(values[x]);
  }
}

}  // namespace

Image decode_hdr(std::string_view bytes, const std::string& name, Pixels pixels) {
  Reader reader(bytes, name);
  reader.line();
  bool known_format = false;
  for (std::string_view line = reader.line(); !line.empty(); line = reader.line()) {
    if (line.starts_with("FORMAT=")) known_format = line == "FORMAT=32-bit_rle_rgbe";
  }
  if (!known_format) reader.refuse("its format is not 32-bit_rle_rgbe");
  const Size size = read_size(reader.line(), reader);
  expect_image_size(static_cast<std::uint64_t>(size.width), static_cast<std::uint64_t>(size.height), true, name, kind);
  const auto width = static_cast<std::size_t>(size.width);
  // A row takes at least 4 bytes of head and 8 of runs for each 127 pixels: a file that is too short asks for no
  // memory.
  const std::size_t least = std::min(4 * width, 4 + 8 * ((width + 126) / 127));
  if (reader.left() / least < static_cast<std::size_t>(size.height)) reader.refuse("it ends too early");
  if (pixels == Pixels::left_out) return Image::outline(size.width, size.height, Format::rgba32f);
  Image image(size.width, size.height, Format::rgba32f);
  std::vector<std::uint8_t> row(4 * width);
  for (int y = 0; y < size.height; ++y) {
    const bool packed = width >= 8 && width < 32768 && reader.left() >= 4 && reader.peek(0) == 2 &&
                        reader.peek(1) == 2 && (reader.peek(2) & 0x80) == 0;
    if (packed && (std::size_t{reader.peek(2)} << 8 | reader.peek(3)) != width)
      reader.refuse(fmt::format("row {} has another width than the picture", y));
    if (packed) {
      read_packed_row(reader, row, width);
    } else {
      read_plain_row(reader, row);
    }
    to_floats(row, image.bytes().data() + static_cast<std::size_t>(y) * image.row_bytes());
  }
  return image;
}

void write_hdr(const Image& image, const std::filesystem::path& path) {
  if (image.format() != Format::rgba32f) {
    throw Mistake("image-format", {}, fmt::format("a Radiance HDR file can't hold {}", to_string(image.format())),
                  "give linear light as rgba32f");
  }
  expect_writable(path);
  const auto width = static_cast<std::size_t>(image.width());
  const bool packed = width >= 8 && width < 32768;
  std::string file = fmt::format("#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y {} +X {}\n", image.height(), image.width());
  std::vector<std::uint8_t> row(4 * width), channel(width);
  const auto* pixels = reinterpret_cast<const float*>(image.bytes().data());
  for (int y = 0; y < image.height(); ++y) {
    for (std::size_t x = 0; x < width; ++x, pixels += 4) {
      const float largest = std::max({pixels[0], pixels[1], pixels[2], 0.0f});
      int exponent = 0;
      const float share = std::frexp(largest, &exponent);
      const bool dark = !(largest > 1e-38f) || !std::isfinite(largest);
      for (std::size_t k = 0; k < 3; ++k)
        row[4 * x + k] = dark
                             ? std::uint8_t{0}
                             : static_cast<std::uint8_t>(std::clamp(pixels[k] * (share * 256 / largest), 0.0f, 255.0f));
      row[4 * x + 3] = dark ? std::uint8_t{0} : static_cast<std::uint8_t>(exponent + 128);
    }
    if (!packed) {
      file.append(row.begin(), row.end());
      continue;
    }
    file += {2, 2, static_cast<char>(width >> 8), static_cast<char>(width & 255)};
    for (std::size_t k = 0; k < 4; ++k) {
      for (std::size_t x = 0; x < width; ++x) channel[x] = row[4 * x + k];
      append_packed(file, channel);
    }
  }
  write_file(path, file);
}

}  // namespace periscena

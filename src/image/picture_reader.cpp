#include <periscena/base/error.h>
#include <periscena/image/picture_reader.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena {

std::shared_ptr<const Image> PictureReader::read(const std::filesystem::path& path, Use use) {
  const std::optional<FileIdentity> identity = file_identity(path);
  if (identity) {
    if (const auto known = known_.find(*identity); known != known_.end()) return known->second;
  }
  const std::string bytes = read_bytes(path);
  auto image = decode(bytes, path.lexically_normal().string(), use);
  if (identity) known_.emplace(*identity, image);
  return image;
}

std::shared_ptr<const Image> PictureReader::decode(std::string_view bytes, const std::string& name, Use use) {
  spend(bytes, name);
  auto image = std::make_shared<const Image>(decode_image(bytes, name, pixels_));
  constexpr int guaranteed = 16384;
  if (use == Use::texture && std::max(image->width(), image->height()) > guaranteed)
    large_.push_back({name, image->width(), image->height()});
  return image;
}

void PictureReader::spend(std::string_view file, const std::string& name) {
  constexpr std::size_t for_each_byte = 16;
  left_ += for_each_byte * file.size();
  const Image outline = decode_image(file, name, Pixels::left_out);
  const std::size_t bytes = outline.row_bytes() * static_cast<std::size_t>(outline.height());
  if (bytes > left_) {
    fail("pictures-too-large", {},
         fmt::format("\"{}\" has {} x {} pixels, and the pictures so far leave room for {} MiB", name, outline.width(),
                     outline.height(), left_ >> 20),
         "use smaller pictures: what a few files ask for should be in proportion to their size");
  }
  left_ -= bytes;
}

}  // namespace periscena

#include "base/parallel.h"

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
  if (use == Use::texture) note_size(*image, name);
  return image;
}

std::vector<std::shared_ptr<const Image>> PictureReader::decode_all(std::span<const Encoded> pictures) {
  std::vector<std::shared_ptr<const Image>> images(pictures.size());
  std::size_t affordable = 0;
  try {
    for (; affordable < pictures.size(); ++affordable) spend(pictures[affordable].bytes, pictures[affordable].name);
  } catch (const Error&) {
    // Those from here on are left to decode(), which says what is wrong with the first of them that is wanted.
  }
  parallel_for(affordable, [&](std::size_t i) {
    try {
      images[i] = std::make_shared<const Image>(decode_image(pictures[i].bytes, pictures[i].name, pixels_));
    } catch (const Error&) {
      images[i] = nullptr;
    }
  });
  for (std::size_t i = 0; i < affordable; ++i) {
    if (images[i]) note_size(*images[i], pictures[i].name);
  }
  return images;
}

void PictureReader::note_size(const Image& image, const std::string& name) {
  constexpr int guaranteed = 16384;
  if (std::max(image.width(), image.height()) > guaranteed) large_.push_back({name, image.width(), image.height()});
}

void PictureReader::spend(std::string_view file, const std::string& name) {
  constexpr std::size_t for_each_byte = 16;
  const Image outline = decode_image(file, name, Pixels::left_out);
  const std::size_t bytes = outline.row_bytes() * static_cast<std::size_t>(outline.height());
  const std::size_t available = left_ + for_each_byte * file.size();
  if (bytes > available) {
    fail("pictures-too-large", {},
         fmt::format("\"{}\" has {} x {} pixels, and the pictures so far leave room for {} MiB", name, outline.width(),
                     outline.height(), available >> 20),
         "use smaller pictures: what a few files ask for should be in proportion to their size");
  }
  left_ = available - bytes;
}

}  // namespace periscena

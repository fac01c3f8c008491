#pragma once

#include <periscena/base/file.h>
#include <periscena/image/files.h>

#include <map>
#include <memory>
#include <span>
#include <vector>

namespace periscena {

/// Reads the pictures that a description names: each file once, however its path is spelt, and all of them within a
/// budget, so that a short file can't ask for all memory.
///
/// The budget is 512 MiB of pixels, and 16 times the bytes of the files that were read.
class PictureReader {
 public:
  explicit PictureReader(Pixels pixels = Pixels::decoded) : pixels_(pixels) {}

  /// What a picture is for: data never becomes a texture of its size.
  enum class Use { texture, data };

  /// @throws Error "unreadable-file", "broken-image", "pictures-too-large"
  std::shared_ptr<const Image> read(const std::filesystem::path& path, Use use = Use::texture);

  /// The same for a picture in memory; it is decoded each time. @param name  for messages
  std::shared_ptr<const Image> decode(std::string_view bytes, const std::string& name, Use use = Use::texture);

  /// A picture in memory. @see decode
  struct Encoded {
    std::string_view bytes;
    std::string name;
  };

  /// Decodes several textures at the same time, on as many threads as the machine has.
  /// @return by picture; null where decode would throw, which a call of it then says
  std::vector<std::shared_ptr<const Image>> decode_all(std::span<const Encoded> pictures);

  Pixels pixels() const { return pixels_; }

  /// A texture with a side that not every device has.
  struct LargeTexture {
    std::string name;  ///< the picture's
    int width = 0, height = 0;
  };

  /// Those over 16384 pixels, which OpenGL 4.5 guarantees.
  const std::vector<LargeTexture>& large_textures() const { return large_; }

 private:
  void spend(std::string_view file, const std::string& name);
  void note_size(const Image& image, const std::string& name);

  Pixels pixels_;
  std::map<FileIdentity, std::shared_ptr<const Image>> known_;
  std::vector<LargeTexture> large_;
  std::size_t left_ = std::size_t{512} << 20;
};

}  // namespace periscena

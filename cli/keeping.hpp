#pragma once
// Searches kept in a file together with the model and its tables, so that the file alone is enough.

#include <filesystem>

#include "command.hpp"

namespace kiteknot::cli {

/// What `solve --keep` was given. Throws CommandLineError where something of the model came from
/// standard input, which is not there a second time.
std::shared_ptr<const Keeping> keeping_of(const std::string& file, double every,
                                          const ModelArguments& arguments, const Model& model);

/// The same for a search that goes on: in this file, with what was beside it.
std::shared_ptr<const Keeping> keeping_on(const std::string& file, double every,
                                          const KeptSearch& kept);

/// The files of a kept search for as long as it is there, in a folder of its own.
class UnpackedModel {
 public:
  explicit UnpackedModel(const KeptSearch& kept);
  /// To load it by.
  [[nodiscard]] const ModelArguments& arguments() const noexcept { return arguments_; }
  /// As it was called when the search began.
  [[nodiscard]] const std::string& name() const noexcept { return name_; }

 private:
  [[nodiscard]] std::filesystem::path inside(const std::string& name) const;

  struct Folder {
    Folder();
    Folder(const Folder&) = delete;
    Folder& operator=(const Folder&) = delete;
    ~Folder();
    std::filesystem::path path;
  };
  Folder folder_;
  ModelArguments arguments_;
  std::string name_;
};

}  // namespace kiteknot::cli

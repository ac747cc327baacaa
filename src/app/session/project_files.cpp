#include "app/session/project_files.h"

#include "project/read.h"

namespace stone
{

void ProjectFiles::setDocument(const std::filesystem::path& document)
{
    handPicked_.clear();
    move(document);
}

void ProjectFiles::move(const std::filesystem::path& document)
{
    document_ = document;
    resolved_.clear();
}

std::filesystem::path ProjectFiles::resolve(const std::string& file) const
{
    if (handPicked_.contains(file)) {
        return file;
    }
    const auto known = resolved_.find(file);
    if (known != resolved_.end()) {
        return known->second;
    }
    return resolved_[file] = document_.empty() ? std::filesystem::path{} : resolveInside(folder(), file);
}

std::string ProjectFiles::takeIn(const std::filesystem::path& file, const std::string& subfolder)
{
    const std::filesystem::path source = std::filesystem::absolute(file);
    if (document_.empty()) {
        handPicked_.insert(source.string());
        return source.string();
    }
    const std::filesystem::path relative = source.lexically_relative(folder());
    if (!relative.empty() && *relative.begin() != "..") {
        return relative.generic_string();
    }
    const std::filesystem::path target = folder() / subfolder;
    std::filesystem::create_directories(target);
    std::filesystem::path inside = target / source.filename();
    for (int n = 2; std::filesystem::exists(inside); ++n) {
        inside = target / (source.stem().string() + "-" + std::to_string(n) + source.extension().string());
    }
    std::filesystem::copy_file(source, inside);
    return inside.lexically_relative(folder()).generic_string();
}

std::string ProjectFiles::bring(const std::string& file, const std::string& subfolder,
                                const std::filesystem::path& target) const
{
    const bool elsewhere = !document_.empty() && target != folder();
    const std::filesystem::path absolute(file);
    const bool relative = absolute.is_relative();
    const std::filesystem::path source = relative ? resolveInside(folder(), file) : absolute;
    if (file.empty() || source.empty() || (relative && !elsewhere)) {
        return file;
    }
    const std::filesystem::path inside = relative ? absolute : std::filesystem::path(subfolder) / absolute.filename();
    std::error_code ignored;
    std::filesystem::create_directories((target / inside).parent_path(), ignored);
    std::filesystem::copy_file(source, target / inside, std::filesystem::copy_options::skip_existing, ignored);
    return ignored ? file : inside.generic_string();
}

} // namespace stone

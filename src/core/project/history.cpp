// SPDX-License-Identifier: MPL-2.0
#include "project/history.h"

namespace stone
{

namespace
{
// Steps share almost everything, so the bound is about a history that people can still oversee.
constexpr std::size_t mostSteps = 1'000;
} // namespace

History::History(Document document) : steps_{{document, {}, {}}}, saved_(document)
{
}

void History::commit(Project document, std::string name, std::string gesture)
{
    if (document == *current()) {
        return;
    }
    steps_.resize(at_ + 1);
    auto next = std::make_shared<const Project>(std::move(document));
    const bool continues = !gesture.empty() && at_ > 0 && steps_[at_].gesture == gesture;
    if (continues) {
        steps_[at_] = {std::move(next), std::move(name), std::move(gesture)};
        return;
    }
    steps_.push_back({std::move(next), std::move(name), std::move(gesture)});
    if (steps_.size() > mostSteps) {
        steps_.erase(steps_.begin());
    }
    at_ = steps_.size() - 1;
}

void History::endGesture()
{
    steps_[at_].gesture.clear();
}

void History::undo()
{
    endGesture();
    at_ -= canUndo() ? 1 : 0;
}

void History::redo()
{
    at_ += canRedo() ? 1 : 0;
    endGesture();
}

std::vector<History::Earlier> History::earlier(std::size_t most) const
{
    std::vector<Earlier> states;
    for (std::size_t i = at_; i > 0 && states.size() < most; --i) {
        states.push_back({steps_[i - 1].document, steps_[i].name});
    }
    return states;
}

std::string History::undoName() const
{
    return canUndo() ? steps_[at_].name : std::string{};
}

std::string History::redoName() const
{
    return canRedo() ? steps_[at_ + 1].name : std::string{};
}

bool History::changed() const
{
    return current() != saved_ && !(*current() == *saved_);
}

} // namespace stone

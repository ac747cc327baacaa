// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"

#include <memory>
#include <string>
#include <vector>

namespace stone
{

/// The undo history of one document: whole documents, which share what did not change. One gesture is one step, named
/// with what happened. Not thread-safe: it belongs to the thread that edits.
class History
{
public:
    using Document = std::shared_ptr<const Project>;

    explicit History(Document document);

    const Document& current() const { return steps_[at_].document; }

    /// Makes `document` the current one. A non-empty `gesture` equal to that of the step before replaces that step, so
    /// that a drag, whose moves all carry one gesture, ends up as one step under its last name. A document equal to the
    /// current one adds nothing.
    void commit(Project document, std::string name, std::string gesture = {});

    /// Ends a gesture: the next commit is a step of its own, whatever gesture it carries.
    void endGesture();

    bool canUndo() const { return at_ > 0; }
    bool canRedo() const { return at_ + 1 < steps_.size(); }
    void undo();
    void redo();
    /// What undo would take back and redo would bring back; empty when there is nothing.
    std::string undoName() const;
    std::string redoName() const;

    /// The states before the current one, newest first: each with what was done to it next. At most `most`.
    struct Earlier {
        Document document;
        std::string then;
    };
    std::vector<Earlier> earlier(std::size_t most) const;
    /// The one last marked as saved.
    const Document& saved() const { return saved_; }

    void markSaved() { saved_ = current(); }
    /// Whether the document differs from the one last marked as saved. Undoing back to that one clears it.
    bool changed() const;

private:
    struct Step {
        Document document;
        std::string name;
        std::string gesture;
    };

    std::vector<Step> steps_;
    std::size_t at_ = 0;
    Document saved_;
};

} // namespace stone

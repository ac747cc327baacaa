#pragma once

#include "app/forms/page.h"

namespace stone
{

/// What the bench shows while nothing is selected: what to do next.
class EmptyPage : public Page
{
    Q_OBJECT

public:
    explicit EmptyPage(QWidget* parent = nullptr);
    bool isOfSelection() const override { return true; }
    void refresh() override {}
};

} // namespace stone

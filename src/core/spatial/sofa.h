// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "spatial/head_filters.h"

#include <filesystem>
#include <functional>
#include <stdexcept>

namespace stone
{

/// A set of measured ears that cannot be used: one line with what, where and what to do.
class SofaError : public std::runtime_error
{
public:
    using std::runtime_error::runtime_error;
};

/// Measured ears from a file in the format AES69 (SOFA), convention SimpleFreeFieldHRIR: measurements around the head for
/// two ears, as impulse responses. What all directions share is taken off (diffuse-field equalisation), so that headphones
/// do not colour twice. They are split into a minimum-phase part and a delay for each ear and brought to the
/// grid by the measurements around each of its points, nearer ones counting more. Takes about a second, most of it
/// in a process of its own that cannot go round for ever; see readSofaApart(). `stop`: asked now and then; when it says so the
/// reading ends with a SofaError. Throws SofaError.
SharedHead readSofa(const std::filesystem::path& file, double rate, const std::function<bool()>& stop = {});

/// The measured ears that the system's package brings; empty when it is not installed.
std::filesystem::path installedSofa();

} // namespace stone

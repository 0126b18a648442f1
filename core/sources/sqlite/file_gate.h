// SPDX-License-Identifier: MIT
#pragma once
// FileGate: loads and saves of this process take turns on a database file whose readers keep its writers waiting (all
// journal modes but the write-ahead log). Else a save would run into kPatientMs behind a long load of the same program,
// and be refused as if another program held the file.

#include <condition_variable>
#include <memory>
#include <mutex>
#include <string>

#include "core/base/cancel.h"

namespace jollyrow::sqlite {

/// Thread-safe. Many may read at a time; one that wants to write is let in before those that come to read after it.
class FileGate final {
  public:
    /// The one of this file for all of the process, while anybody keeps it. `file`: its full path.
    static std::shared_ptr<FileGate> of(const std::string& file);

    /// Inside from its making on; a reader whose `cancel` is requested before it got in is not, and need not be.
    class Reading {
      public:
        Reading(std::shared_ptr<FileGate> gate, const Cancel& cancel);
        ~Reading();
        Reading(const Reading&) = delete;
        Reading& operator=(const Reading&) = delete;

      private:
        std::shared_ptr<FileGate> gate_;
        bool isIn_ = false;
    };
    class Writing {
      public:
        /// `gate` null: where nobody keeps anybody waiting.
        explicit Writing(std::shared_ptr<FileGate> gate);
        ~Writing();
        Writing(const Writing&) = delete;
        Writing& operator=(const Writing&) = delete;

      private:
        std::shared_ptr<FileGate> gate_;
    };

  private:
    std::mutex mutex_;
    std::condition_variable changed_;  // all below guarded by mutex_
    int readers_ = 0, waitingWriters_ = 0;
    bool isWriting_ = false;
};

}  // namespace jollyrow::sqlite

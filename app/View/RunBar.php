<?php

declare(strict_types=1);

namespace App\View;

use App\Models\Run;
use App\Words;

/** How far a run that is at work has come, as its page shows it. */
final readonly class RunBar
{
    public function __construct(public Run $run)
    {
    }

    /** From 0 to 1. */
    public function share(): float
    {
        return match (true) {
            $this->run->bytes_total > 0 => min(1.0, $this->run->bytes_done / $this->run->bytes_total),
            $this->run->files_total > 0 => min(1.0, $this->run->files_done / $this->run->files_total),
            default => 0.0,
        };
    }

    public function percent(): float
    {
        return round($this->share() * 100, 1);
    }

    /** "is at work: 12 of 40 files, 3 MB of 9 MB, 1 MB/s, about 6 s left." */
    public function words(): string
    {
        $state = ['queued' => 'waiting for a worker', 'waiting' => 'waiting'][$this->run->state] ?? 'at work';
        $howFar = implode(', ', array_filter([
            $this->run->howFar(),
            $this->run->bytes_total > 0 ? Words::size($this->run->bytes_done).' of '.Words::size($this->run->bytes_total) : '',
            $this->left(),
        ]));

        return "is $state".($howFar === '' ? '.' : ": $howFar.");
    }

    /** What can be told of the rest, once some of it is done. */
    private function left(): string
    {
        $share = $this->share();
        if ($share <= 0.02 || $share >= 1 || $this->run->started_at === null) {
            return '';
        }
        $seconds = max(0.1, now()->diffInMilliseconds($this->run->started_at, true) / 1000);

        return Words::size((int) ($this->run->bytes_done / $seconds)).'/s, about '.
            Words::duration(($seconds / $share) * (1 - $share)).' left';
    }

    /** @return array<string, string> label => page, of the cartridges that it waits for */
    public function cartridges(): array
    {
        $pages = [];
        foreach ($this->run->waits_for ?? [] as $name) {
            if (str_contains($name, '/')) {
                [$store, $label] = explode('/', $name, 2);
                $pages[$label] = "/stores/$store/cartridges/$label";
            }
        }

        return $pages;
    }
}

<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Page;

use App\Kinds\Machines\Home\HomeOrder;
use App\Kinds\Machines\Standing\Following;
use App\Models\Run;
use App\Models\User;

/** What the page of a run at a hypervisor shows beside what all runs do. */
final readonly class PlacedRunView
{
    public function __construct(public Run $run, public User $user)
    {
    }

    /** The machine that stands up and reads from the store; null if none does, or the run is still making it. */
    public function stands(): ?StandingView
    {
        $stands = StandingView::ofRun($this->run);

        return $stands !== null && ($this->run->isOver() || $stands->standing->isBeingSettled()) ? $stands : null;
    }

    /** What putting it back is called. */
    public function backTitle(): string
    {
        return StandingView::ofRun($this->run) === null ? 'Put it back' : 'Drop it';
    }

    public function annex(): ?AnnexView
    {
        return $this->run->isOver() ? AnnexView::ofRun($this->run, $this->user) : null;
    }

    public function follows(): ?Following
    {
        return Following::active($this->run);
    }

    public function home(): ?HomeView
    {
        return HomeView::ofRun($this->run);
    }

    /** Whether it brought home what had stood in. */
    public function isHome(): bool
    {
        return ($this->run->plan['way'] ?? '') === HomeOrder::WAY;
    }
}

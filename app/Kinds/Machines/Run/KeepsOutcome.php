<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

/** Of what carries a run out: what that keeps of what it did at once, so that one that is carried out again knows of it. */
trait KeepsOutcome
{
    protected function remember(mixed ...$what): void
    {
        $this->run->update(['outcome' => $what + ($this->run->refresh()->outcome ?? [])]);
    }

    protected function recalled(string $what): mixed
    {
        return ($this->run->outcome ?? [])[$what] ?? null;
    }
}

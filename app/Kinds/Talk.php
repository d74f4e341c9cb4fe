<?php

declare(strict_types=1);

namespace App\Kinds;

/** Whoever waits at a terminal. */
interface Talk
{
    public function say(string $message): void;

    /** How far it is, where somebody can see that. */
    public function progress(string $message): void;
}

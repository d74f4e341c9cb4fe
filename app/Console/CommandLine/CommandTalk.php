<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Kinds\Talk;
use Closure;

/** The terminal of a command. */
final readonly class CommandTalk implements Talk
{
    /**
     * @param  Closure(string): void  $say
     * @param  Closure(string): void  $progress
     */
    public function __construct(private Closure $say, private Closure $progress)
    {
    }

    public function say(string $message): void
    {
        ($this->say)($message);
    }

    public function progress(string $message): void
    {
        ($this->progress)($message);
    }
}

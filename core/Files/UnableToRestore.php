<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use Kaiseki\Core\Catalog\Shown;
use RuntimeException;

final class UnableToRestore extends RuntimeException
{
    /** Whether it is the target that failed, and so nothing more can be placed there. */
    public readonly bool $targetIsUnfit;

    private function __construct(string $message, bool $targetIsUnfit = false, public readonly bool $isStop = false)
    {
        parent::__construct($message);
        $this->targetIsUnfit = $targetIsUnfit;
    }

    public static function targetMissing(string $target): self
    {
        return new self(
            'The target folder "'.Shown::name($target).'" does not exist, nor the folder it would lie in. Make it, or choose another.',
            true,
        );
    }

    public static function targetUnfit(string $target, string $because): self
    {
        return new self('The target folder "'.Shown::name($target)."\" cannot be used: $because.", true);
    }

    /** Before anything was begun, for a reason that is told as it is. */
    public static function refused(string $because): self
    {
        return new self($because, true);
    }

    public static function full(string $target): self
    {
        return new self(
            'The volume of "'.
                Shown::name($target).
                '" is full. Nothing was put in place that is not whole; free some room and run it again.',
            true,
        );
    }

    public static function at(string $path, string $because): self
    {
        return new self('"'.Shown::name($path)."\": $because.");
    }

    public static function throughLink(string $path): self
    {
        return new self(
            '"'.Shown::name($path).'" was not written: a folder on its way is a link or no folder, and might lead out of the target.',
        );
    }

    /** What another process told, which was to do it. */
    public static function told(string $message, bool $targetIsUnfit): self
    {
        return new self($message, $targetIsUnfit);
    }

    /** One of two processes is gone; what it had brought and is right stays. */
    public static function processDied(): self
    {
        return self::told('One of the processes of the run died; go on with it.', true);
    }

    public static function stopped(): self
    {
        return new self('The run was stopped.', true, true);
    }

    public static function targetChanged(string $path): self
    {
        return new self('"'.Shown::name($path).'" changed while the run was at work, so it was left as it is.');
    }
}

<?php

declare(strict_types=1);

namespace App\Kinds\Items\Run;

use App\Kinds\Items\Order\CannotBringItems;
use Kaiseki\Core\Files\Look;
use Kaiseki\Core\Files\Status;

/** A zip that a run wrote, and by what it is known again. */
final readonly class WrittenZip
{
    private function __construct(public string $name, public int $size, public int $mtime)
    {
    }

    /** @throws CannotBringItems if it is not there */
    public static function in(Look $folder, string $name): self
    {
        $status = $folder->status($name);

        return $status?->type === Status::FILE
            ? new self($name, $status->size, intdiv($status->mtime, 1_000_000_000))
            : throw CannotBringItems::because('The zip is not there any more.');
    }

    /** Whether it lies there as it was written. */
    public function isIn(Look $folder): bool
    {
        $status = $folder->status($this->name);

        return $status?->type === Status::FILE && $status->size === $this->size && intdiv($status->mtime, 1_000_000_000) === $this->mtime;
    }

    /** @return array<string, string|int> */
    public function toArray(): array
    {
        return get_object_vars($this);
    }

    /** @param  array<string, mixed>  $outcome  of a run; null if it wrote none */
    public static function of(array $outcome): ?self
    {
        $zip = $outcome['zip'] ?? null;

        return is_array($zip) ? new self($zip['name'], $zip['size'], $zip['mtime']) : null;
    }
}

<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

use Kaiseki\Core\Mail\Attachment;

/** Something that came with a message, as the catalog names it. */
final readonly class AttachedThing
{
    public function __construct(public string $name, public string $type, public int $size)
    {
    }

    public static function of(Attachment $attachment): self
    {
        return new self(mb_strcut($attachment->name, 0, 255), mb_strcut(mb_scrub($attachment->type), 0, 100), $attachment->size);
    }
}

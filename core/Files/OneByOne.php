<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

/** For what is near enough, so that asking for many at once saves nothing. */
trait OneByOne
{
    public function many(iterable $asked): iterable
    {
        foreach ($asked as [$path, $want]) {
            yield Seen::by($this, $path, $want);
        }
    }
}

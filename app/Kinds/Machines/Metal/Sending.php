<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Runs\RunProgress;
use Closure;
use Kaiseki\Core\Metal\RenewedTree;
use Kaiseki\Core\Metal\SentTree;

/** From where contents come that go to a medium, by which way, and what is changed in them. */
final readonly class Sending
{
    /**
     * @param  string  $token  as orders have it
     * @param  Closure(): void  $wait  called while the medium has not taken enough, or not told enough; throws if that has no end
     * @param  bool  $renewsId  whether the machine's id is left empty
     * @param  array<string, string>  $cards  see MetalSource::tree()
     */
    public function __construct(
        public MetalSource $source,
        public Exchange $exchange,
        public RunProgress $progress,
        private string $token,
        private Closure $wait,
        private bool $renewsId = false,
        private array $cards = [],
    ) {
    }

    public function wait(): void
    {
        ($this->wait)();
    }

    /** A piece of a content, once the medium has room for it; null behind the last. */
    public function put(int $content, int $piece, ?string $bytes): void
    {
        while (! $this->exchange->hasRoom($content, $piece)) {
            $this->wait();
        }
        $this->exchange->put($this->token, $content, $piece, $bytes);
    }

    /** What is to lie on a volume. */
    public function tree(string $volume): SentTree
    {
        $tree = $this->source->tree($volume, $this->cards);

        return $this->renewsId ? new RenewedTree($tree) : $tree;
    }
}

<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use Closure;
use Kaiseki\Core\Archive\GzipMemberWriter;
use Kaiseki\Core\Archive\TarWriter;
use Kaiseki\Core\Metal\MetalOrders;
use Kaiseki\Core\Metal\OrderedContent;
use Kaiseki\Core\Metal\SentTree;
use Kaiseki\Core\Metal\TreeStep;

/** What makes of disks that were brought before those of another point: it is known once the medium has told what lies on them. */
final class StepMaker extends Contents
{
    /** @var array<string, TreeStep> volume => what changes on it */
    private array $steps = [];

    public function __construct(Sending $to, private readonly MetalOrders $orders, private readonly KeptTrees $kept)
    {
        parent::__construct($to);
    }

    public function make(OrderedContent $content): void
    {
        match ($content->kind) {
            OrderedContent::LESS => $this->less($content),
            OrderedContent::MORE => $this->more($content),
            default => $this->changed($content),
        };
    }

    private function more(OrderedContent $content): void
    {
        $step = $this->steps[$content->place()->key];
        $this->files($content, fn (SentTree $tree, GzipMemberWriter $to, Closure $advanced): int => $step
            ->pour(new TarWriter($to), $this->record($content), $advanced)
            ->leftOut);
    }

    private function less(OrderedContent $content): void
    {
        $before = $this->told($content);
        $key = $content->place()->key;
        $said = array_map(fn (string $part) => $this->to->exchange->listing($before, $part), ['entries', 'digests', 'attributes']);
        $this->steps[$key] = new TreeStep($this->to->tree($key), $this->kept->record($key), ...$said);
        $this->pour($content, function ($pipe, Closure $drain) use ($key): void {
            $packed = new GzipMemberWriter($pipe, PHP_INT_MAX, 1);
            for ($gone = $this->steps[$key]->gone(); ! feof($gone); $drain()) {
                $packed->write((string) fread($gone, 1 << 16));
            }
            $packed->finish();
        });
    }

    /** An image: nothing of it, where all of it is there. */
    private function changed(OrderedContent $content): void
    {
        $before = $this->told($content);
        $hash = hash_init('sha256');
        foreach ($this->to->source->image($content->place()->key, $content->place()->was) as $bytes) {
            hash_update($hash, $bytes);
        }
        $sum = hash_final($hash);
        if (! hash_equals($sum, trim((string) stream_get_contents($this->to->exchange->listing($before, 'sum'))))) {
            $this->image($content);

            return;
        }
        $this->sums[$content->place()->key] = $sum;
        $this->bytes($content, (string) gzencode(''));
    }

    /** What the medium told of a place before it changes anything there, once it has told all of it. */
    private function told(OrderedContent $content): OrderedContent
    {
        $before = $this->orders->before($content->place());
        while ($this->to->exchange->listed() <= $before->number) {
            $this->to->wait();
        }

        return $before;
    }
}

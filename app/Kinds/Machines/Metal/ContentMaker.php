<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Kinds\Machines\Order\CannotBring;
use Closure;
use Kaiseki\Core\Archive\GzipMemberWriter;
use Kaiseki\Core\Archive\TarWriter;
use Kaiseki\Core\Metal\GroupHead;
use Kaiseki\Core\Metal\LayoutPlan;
use Kaiseki\Core\Metal\LayoutReading;
use Kaiseki\Core\Metal\OrderedContent;
use Kaiseki\Core\Metal\SentTree;
use Kaiseki\Core\Metal\TreeSender;

/** What is brought onto disks with nothing on them that counts: tables, loaders, images, and all files. */
final class ContentMaker extends Contents
{
    public function __construct(Sending $to, private readonly LayoutPlan $plan)
    {
        parent::__construct($to);
    }

    public function make(OrderedContent $content): void
    {
        $read = fn (int $from, int $bytes): string => $this->to->source->disk($content->disk()->was->name)->read($from, $bytes);
        match ($content->kind) {
            OrderedContent::TABLE => $this->bytes($content, $content->disk()->script()),
            OrderedContent::CODE => $this->bytes($content, $read(0, LayoutReading::CODE)),
            OrderedContent::GAP => $this->bytes($content, $read(512, $content->disk()->gap())),
            OrderedContent::HEAD => $this->head($content),
            OrderedContent::IMAGE => $this->image($content),
            default => $this->files($content, function (SentTree $tree, GzipMemberWriter $to, Closure $advanced) use ($content): int {
                $sender = new TreeSender($tree, $this->record($content));
                $sender->pour(new TarWriter($to), $advanced);

                return $sender->leftOut;
            }),
        };
    }

    private function head(OrderedContent $content): void
    {
        $key = $content->place()->key;
        [$group, $part] = $this->plan->part($key) ?? throw CannotBring::because("$key is a part of no volume group.");
        $head = GroupHead::bytes($part, $group->text());
        $this->sums[$key] = hash('sha256', $head);
        $this->bytes($content, (string) gzencode($head));
    }
}

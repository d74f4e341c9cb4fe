<?php

declare(strict_types=1);

namespace App\Kinds\Items\Http;

use App\Kinds\Items\Catalog\FoundItem;
use App\Kinds\Items\Catalog\ItemFinder;
use App\Kinds\Items\Catalog\ItemReader;
use App\Kinds\Items\Page\LetterPage;
use App\Models\User;
use App\Models\Workload;
use App\Sets\ContentRead;
use App\Sets\Points;
use Illuminate\Http\Response;
use Kaiseki\Core\Mail\ItemSort;
use Kaiseki\Core\Mail\Message;
use Symfony\Component\HttpFoundation\HeaderUtils;

/** An item as answers to a browser: its source; of a message its page in a frame without rights, and what came with it. */
final readonly class ServedItem
{
    private function __construct(private Workload $workload, private FoundItem $item, private string $bytes)
    {
    }

    /**
     * 404 where there is none, 409 where no archive gives it.
     *
     * @param  string|null  $only  the mailbox outside of which nothing is seen
     */
    public static function of(?Workload $workload, string $key, ?string $only = null): self
    {
        $item = $workload === null ? null : ItemFinder::named($workload, $key);
        $item = $only === null ? $item : $item?->in($only);
        abort_if($workload === null || $item === null || ($only !== null && $item->spans === []), 404);
        $points = new Points($workload);
        $bytes = (new ItemReader($points))->one($item->id);
        $points->stores->release();
        abort_if($bytes === null, 409, "This {$item->sort->noun()} is in no archive that can be read.");

        return new self($workload, $item, $bytes);
    }

    /**
     * The line in the trail.
     *
     * @param  string  $did  "took the source of"
     * @param  string  $why  "for request 12"
     */
    public function noted(string $did, string $why, User $by): self
    {
        $what = "the {$this->item->sort->noun()} {$this->item->key()} of {$this->workload->name}";
        ContentRead::told(ucfirst($did)." $what $why.", $this->workload, $by);

        return $this;
    }

    /** The page of a message, for a frame. */
    public function letter(): Response
    {
        $page = LetterPage::of($this->message());
        abort_if($page === null, 404);

        return response($page->html, 200, ['Content-Type' => 'text/html; charset=utf-8', 'Content-Security-Policy' => LetterPage::POLICY]);
    }

    public function source(): Response
    {
        $type = match (true) {
            $this->item->sort === ItemSort::Message => 'message/rfc822',
            $this->item->sort === ItemSort::Contact => 'text/vcard; charset=utf-8',
            default => 'text/calendar; charset=utf-8',
        };

        return self::file($this->bytes, "{$this->item->sort->noun()}.{$this->item->sort->ending()}", $type);
    }

    public function part(int $number): Response
    {
        $message = $this->message();
        $attachment = $message->attachments()[$number] ?? null;
        abort_if($attachment === null, 404);

        return self::file($attachment->part->decoded($message->bytes), $attachment->name, 'application/octet-stream');
    }

    private function message(): Message
    {
        abort_if($this->item->sort !== ItemSort::Message, 404);

        return Message::of($this->bytes);
    }

    /** Always as a file, never shown: it is what somebody sent. */
    private static function file(string $bytes, string $name, string $type): Response
    {
        $plain = (string) preg_replace('/[^\x20-\x7e]|[%"\\\\\/]/', '_', $name);
        $safe = str_replace(['/', '\\'], '_', $name);
        $disposition = HeaderUtils::makeDisposition('attachment', trim($safe, '. ') ?: 'attachment', trim($plain, '. ') ?: 'attachment');

        return response($bytes, 200, ['Content-Type' => $type, 'Content-Disposition' => $disposition]);
    }
}

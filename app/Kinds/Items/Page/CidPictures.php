<?php

declare(strict_types=1);

namespace App\Kinds\Items\Page;

use App\View\DrawnPicture;
use Kaiseki\Core\Mail\Message;
use Symfony\Component\HtmlSanitizer\HtmlSanitizerConfig;
use Symfony\Component\HtmlSanitizer\Visitor\AttributeSanitizer\AttributeSanitizerInterface;

/** Pictures that came with a message, drawn anew into its page; pictures from anywhere else are left out. */
final class CidPictures implements AttributeSanitizerInterface
{
    private const MOST = 20;

    /** Of one picture, as it was sent. */
    private const LARGEST = 2 << 20;

    private int $shown = 0;

    /** How many were not shown: they would have been fetched from elsewhere. */
    public int $remote = 0;

    public function __construct(private readonly Message $message)
    {
    }

    public function getSupportedElements(): array
    {
        return ['img'];
    }

    public function getSupportedAttributes(): array
    {
        return ['src'];
    }

    public function sanitizeAttribute(string $element, string $attribute, string $value, HtmlSanitizerConfig $config): ?string
    {
        if (! str_starts_with(strtolower(trim($value)), 'cid:')) {
            $this->remote++;

            return null;
        }
        $id = rawurldecode(substr(trim($value), 4));
        foreach ($this->shown < self::MOST ? $this->message->attachments() : [] as $attachment) {
            if ($attachment->contentId === $id && $attachment->size <= self::LARGEST && str_starts_with($attachment->type, 'image/')) {
                $this->shown++;
                $png = DrawnPicture::png($attachment->part->decoded($this->message->bytes));

                return $png === null ? null : 'data:image/png;base64,'.base64_encode($png);
            }
        }

        return null;
    }
}

<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

use Kaiseki\Core\Mail\Attachment;
use Kaiseki\Core\Mail\MailAddress;

/** What of an item is shown, and never asked for. */
final readonly class ItemDetails
{
    /** Of one message so many addresses and attachments are named. */
    private const MOST = 100;

    /**
     * @param  list<MailAddress>  $to
     * @param  list<MailAddress>  $cc  blind copies among them
     * @param  list<AttachedThing>  $attached
     * @param  list<string>  $wrong  what is wrong with it, in words
     * @param  CalendarFacts|null  $calendar  null for what takes no time
     */
    public function __construct(
        public array $to,
        public array $cc,
        public array $attached,
        public array $wrong,
        public ?CalendarFacts $calendar = null,
    ) {
    }

    /**
     * @param  list<MailAddress>  $to
     * @param  list<MailAddress>  $cc
     * @param  list<Attachment>  $attachments
     * @param  list<string>  $wrong
     */
    public static function of(array $to, array $cc, array $attachments, array $wrong): self
    {
        $things = array_map(
            fn (Attachment $of): AttachedThing => AttachedThing::of($of),
            array_slice($attachments, 0, self::MOST),
        );

        return new self(array_slice($to, 0, self::MOST), array_slice($cc, 0, self::MOST), $things, $wrong);
    }

    public function json(): string
    {
        return json_encode(
            get_object_vars($this),
            JSON_THROW_ON_ERROR | JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_INVALID_UTF8_SUBSTITUTE,
        );
    }

    public static function parse(string $json): self
    {
        $said = json_decode($json, true, 10, JSON_THROW_ON_ERROR);
        $address = fn (array $one): MailAddress => new MailAddress($one['name'], $one['address']);

        return new self(
            array_map($address, $said['to']),
            array_map($address, $said['cc']),
            array_map(fn (array $one): AttachedThing => new AttachedThing($one['name'], $one['type'], $one['size']), $said['attached']),
            $said['wrong'],
            isset($said['calendar']) ? new CalendarFacts(...$said['calendar']) : null,
        );
    }
}

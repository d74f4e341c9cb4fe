<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

use DateTimeZone;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Files\SpooledContent;
use Kaiseki\Core\Mail\Calendar\CalendarFile;
use Kaiseki\Core\Mail\Contact\ContactCard;
use Kaiseki\Core\Mail\Contact\ContactFile;
use Kaiseki\Core\Mail\ItemSort;
use Kaiseki\Core\Mail\MailLayout;
use Kaiseki\Core\Mail\Mbox;
use Kaiseki\Core\Mail\Message;

/** Which items stand in the content of a file. */
final class ItemsInFile
{
    /** A larger message is cataloged by its beginning. */
    private const LARGEST_MESSAGE = 128 << 20;

    private const MOST = 1_000_000;

    private const HEAD = 8_192;

    /** Seconds that the days of series of one file may take, absurd ones among them; later ones are found by their first day alone. */
    private const PATIENCE = 20;

    /**
     * @param  int  $receivedAt  time of the file, seconds since 1970
     * @param  DateTimeZone  $home  of appointments that name none
     * @return iterable<ItemInFile>
     */
    public static function find(string $path, SpooledContent $content, int $receivedAt, DateTimeZone $home): iterable
    {
        $stream = $content->rewound();
        $head = (string) fread($stream, self::HEAD);
        rewind($stream);

        return match (MailLayout::sortOf($path)) {
            ItemSort::Contact => ContactFile::begins($head) ? self::contacts($stream, $receivedAt) : [],
            ItemSort::Message => self::messages($path, $head, $stream, $receivedAt),
            default => CalendarFile::begins($head) ? self::objects($stream, $receivedAt, $home) : [],
        };
    }

    public static function isInMaildir(string $path): bool
    {
        return in_array(basename(EntryPath::split($path)[0]), ['cur', 'new'], true);
    }

    /**
     * @param  resource  $stream
     * @return iterable<ItemInFile>
     */
    private static function messages(string $path, string $head, $stream, int $receivedAt): iterable
    {
        if (! self::isInMaildir($path) && preg_match('/\.eml$/i', $path) !== 1) {
            return Mbox::begins($head) ? self::ofMbox(Mbox::of($stream), $receivedAt) : [];
        }
        $bytes = (string) stream_get_contents($stream, self::LARGEST_MESSAGE);
        $identity = Message::identityOf($bytes);

        return [new ItemInFile($identity, 0, strlen($bytes), '', MessageRow::of($bytes, $identity, $receivedAt))];
    }

    /** @return iterable<ItemInFile> */
    private static function ofMbox(Mbox $mbox, int $receivedAt): iterable
    {
        $number = 0;
        foreach ($mbox->messages() as $message) {
            $bytes = $message->length > self::LARGEST_MESSAGE ? '' : $mbox->content($message);
            if ($bytes === '' || $number++ >= self::MOST) {
                continue;
            }
            $identity = Message::identityOf($bytes);
            $row = MessageRow::of($bytes, $identity, $message->receivedAt ?? $receivedAt);
            yield new ItemInFile($identity, $message->offset, $message->length, $mbox->form->value, $row);
        }
    }

    /**
     * @param  resource  $stream
     * @return iterable<ItemInFile>
     */
    private static function objects($stream, int $receivedAt, DateTimeZone $home): iterable
    {
        $bytes = (string) stream_get_contents($stream, CalendarFile::LARGEST);
        $objects = CalendarFile::read($bytes);
        $spent = $number = 0;
        $began = hrtime(true);
        foreach ($objects as $object) {
            $identity = $object->identity();
            $row = CalendarRow::of($object, $identity, $receivedAt, $home, $spent < self::PATIENCE * 1_000_000_000);
            $spent += hrtime(true) - $began;
            $form = $object->bytes === $bytes ? '' : ItemInFile::OBJECT;
            yield new ItemInFile($identity, $number++, strlen($object->bytes), $form, $row);
            $began = hrtime(true);
        }
    }

    /**
     * @param  resource  $stream
     * @return iterable<ItemInFile>
     */
    private static function contacts($stream, int $receivedAt): iterable
    {
        $bytes = (string) stream_get_contents($stream, ContactFile::LARGEST);
        foreach (ContactFile::cards($bytes) as [$start, $length]) {
            $card = ContactCard::of(substr($bytes, $start, $length));
            $identity = $card->identity();
            yield new ItemInFile($identity, $start, $length, '', ContactRow::of($card, $identity, $receivedAt));
        }
    }
}

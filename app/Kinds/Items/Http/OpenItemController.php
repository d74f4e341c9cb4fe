<?php

declare(strict_types=1);

namespace App\Kinds\Items\Http;

use App\Kinds\Items\Catalog\FoundItem;
use App\Kinds\Items\Catalog\ItemFinder;
use App\Kinds\Items\Catalog\ItemReader;
use App\Kinds\Items\Page\LetterPage;
use App\Models\RecoveryRequest;
use App\Models\User;
use App\Sets\ContentRead;
use App\Sets\Points;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use Kaiseki\Core\Mail\ItemSort;
use Kaiseki\Core\Mail\Message;
use Symfony\Component\HttpFoundation\HeaderUtils;

/** One item of the workload of a request: its source; of a message its page in a frame without rights, and what came with it. */
final class OpenItemController
{
    /** The page, for a frame. */
    public function letter(Request $request, RecoveryRequest $recoveryRequest, string $item): Response
    {
        $message = $this->message($request, $recoveryRequest, $item, 'looked at');
        $page = LetterPage::of($message);
        abort_if($page === null, 404);

        return response($page->html, 200, ['Content-Type' => 'text/html; charset=utf-8', 'Content-Security-Policy' => LetterPage::POLICY]);
    }

    public function source(Request $request, RecoveryRequest $recoveryRequest, string $item): Response
    {
        [$found, $bytes] = $this->read($request, $recoveryRequest, $item, 'took the source of');
        $type = match (true) {
            $found->sort === ItemSort::Message => 'message/rfc822',
            $found->sort === ItemSort::Contact => 'text/vcard; charset=utf-8',
            default => 'text/calendar; charset=utf-8',
        };

        return self::file($bytes, "{$found->sort->noun()}.{$found->sort->ending()}", $type);
    }

    public function part(Request $request, RecoveryRequest $recoveryRequest, string $item, int $number): Response
    {
        $message = $this->message($request, $recoveryRequest, $item, "took attachment $number of");
        $attachment = $message->attachments()[$number] ?? null;
        abort_if($attachment === null, 404);

        return self::file($attachment->part->decoded($message->bytes), $attachment->name, 'application/octet-stream');
    }

    private function message(Request $request, RecoveryRequest $of, string $key, string $did): Message
    {
        [$found, $bytes] = $this->read($request, $of, $key, $did);
        abort_if($found->sort !== ItemSort::Message, 404);

        return Message::of($bytes);
    }

    /** @return array{FoundItem, string} */
    private function read(Request $request, RecoveryRequest $of, string $key, string $did): array
    {
        $user = $request->user();
        assert($user instanceof User);
        $workload = $of->workload;
        $item = $workload === null ? null : ItemFinder::named($workload, $key);
        abort_if($workload === null || $item === null, 404);
        $points = new Points($workload);
        $bytes = (new ItemReader($points))->one($item->id);
        $points->stores->release();
        abort_if($bytes === null, 409, "This {$item->sort->noun()} is in no archive that can be read.");
        $what = "the {$item->sort->noun()} {$item->key()} of {$workload->name}";
        ContentRead::told(ucfirst($did)." $what for request {$of->id}.", $workload, $user);

        return [$item, $bytes];
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

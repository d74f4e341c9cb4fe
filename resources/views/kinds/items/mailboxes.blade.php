@php($boxes = $what->mailboxes())
<nav class="scroll items-tall" aria-label="Mailboxes and folders at this point" tabindex="0">
    @forelse ($boxes as $mailbox => $folders)
        <details class="box" @if (in_array((string) $mailbox, [$what->mailbox, $what->lost()], true) || count($boxes) === 1) open @endif>
            <summary title="{{ $mailbox }}"><span class="name">{{ $mailbox === '' ? 'the mailbox' : $mailbox }}</span> <span
                    class="muted">{{ number_format(array_sum(array_column($folders, 'items'))) }}</span></summary>
            <ul class="plain-list">
                @foreach ($folders as $row)
                    <li><a @if ($what->mailbox === $row->mailbox && $what->folder === $row->folder) aria-current="true" @endif
                            href="{{ $what->url(q: '', mailbox: $row->mailbox, folder: $row->folder, page: '', ever: '')
                                }}">{{ $row->folder }}</a>
                        <span class="muted">{{ number_format($row->items) }}</span></li>
                @endforeach
            </ul>
            <form method="post" action="{{ $view->settleUrl() }}">@csrf<input type="hidden" name="settle" value="pick"><input
                    type="hidden" name="mailbox" value="{{ $mailbox }}"><button class="link" name="pick" value="mailbox">Pick the
                    whole mailbox</button>, <button class="link" name="pick" value="vanished">what vanished of it since</button></form>
        </details>
    @empty
        <p class="empty">Nothing was found in this point.</p>
    @endforelse
</nav>

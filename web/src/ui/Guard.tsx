import { Box, Button, Heading, Text } from "@chakra-ui/react";
import { Component, type ReactNode } from "react";

interface Props {
  /** What it is called on the screen, as in "The editor". */
  what: string;
  /** Another value begins anew. */
  of?: string;
  /** The way out, where there is one. */
  leave?: { title: string; act: () => void };
  children: ReactNode;
}

interface State {
  broken: boolean;
  of?: string;
}

/** A pane of its own: where it breaks, the rest of the page goes on. */
export class Guard extends Component<Props, State> {
  state: State = { broken: false, of: this.props.of };

  static getDerivedStateFromError(): Partial<State> {
    return { broken: true };
  }

  static getDerivedStateFromProps({ of }: Props, state: State): State | null {
    return of === state.of ? null : { broken: false, of };
  }

  render() {
    const { what, leave, children } = this.props;
    if (!this.state.broken) return children;
    return (
      <Box p="6" role="alert">
        <Heading as="h2" size="sm" mb="2">
          {what} cannot be shown
        </Heading>
        <Text mb="4" color="fg.muted">
          Something in this part of the page went wrong. What you typed is kept, and the rest of the page goes on.
        </Text>
        <Box display="flex" gap="3" flexWrap="wrap">
          <Button size="sm" colorPalette="lantern" onClick={() => this.setState({ broken: false })}>
            Try again
          </Button>
          {leave && (
            <Button size="sm" variant="outline" onClick={leave.act}>
              {leave.title}
            </Button>
          )}
        </Box>
      </Box>
    );
  }
}
